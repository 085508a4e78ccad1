import * as Comlink from 'comlink'
import * as z from 'zod'
import { castRound, computeMap, isCast } from '#core/geometry/compute'
import { Geometry } from '#core/geometry/geometry'
import { mapSettingsSchema } from '#core/geometry/maps'
import type { Mesh } from '#core/mesh/mesh'
import type { Parts } from '#core/mesh/parts'

const count = z.number().int().min(0)
const castSchema = z.object({
  settings: mapSettingsSchema.refine(isCast, 'this map is not cast'),
  round: z.object({ from: count, to: count, first: count, last: count }),
})
let geometry: Geometry | undefined

/** One of several workers that compute geometry maps of the same mesh. */
const geometryApi = {
  load(mesh: Mesh, parts: Parts): void {
    geometry = new Geometry(mesh, parts)
  },
  /** Welded vertices: how many points there are to cast rays from, and which one stands for each vertex. */
  points(): { count: number; of: Uint32Array } {
    const { surface } = geometry!
    return { count: surface.count, of: surface.of }
  },
  /** Builds what rays need, so that the first round's time is a ray's time. */
  warm(all: boolean): void {
    if (all) geometry!.scene.all()
  },
  /** One round of rays for some of the points; answers with what they add to the sums. */
  cast(asked: unknown): Float32Array {
    const { settings, round } = castSchema.parse(asked)
    const { scene, surface } = geometry!
    // Points are numbered from the first: the pattern of a point's rays hangs on its number.
    const sums = new Float32Array(round.to)
    castRound(scene, surface, settings, round, sums)
    const own = sums.slice(round.from)
    return Comlink.transfer(own, [own.buffer])
  },
  /** A map that is not cast in rounds, whole. */
  compute(settings: unknown, progress: (share: number) => void): Float32Array {
    let told = 0
    const { values } = computeMap(geometry!, mapSettingsSchema.parse(settings), {
      progress: share => {
        if (share - told < 0.02) return
        told = share
        progress(share)
      },
    })!
    return Comlink.transfer(values, [values.buffer])
  },
}
export type GeometryApi = typeof geometryApi

Comlink.expose(geometryApi)
