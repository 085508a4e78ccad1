import * as Comlink from 'comlink'
import { isCast } from '#core/geometry/compute'
import { CHUNK, FIRST_RAYS, rounds } from '#core/geometry/round'
import { declarationOf, type MapSettings } from '#core/geometry/maps'
import type { Mesh, VertexMap } from '#core/mesh/mesh'
import type { Parts } from '#core/mesh/parts'
import { Crew, workersToSpare } from '../shared/crew'
import { handsRest } from '../stage/turns'
import type { GeometryApi } from './geometry.worker'

export interface JobHooks {
  progress(share: number): void
  preview(values: Float32Array): void
}

/**
 * Computes geometry maps on as many threads as the machine has to spare. Maps that cast rays are split over all threads
 * and shown rough after their first rays; the others all run on one, where they share what they are made from.
 */
export class GeometryPool {
  private readonly crew = new Crew<GeometryApi>(
    () => new Worker(new URL('./geometry.worker.ts', import.meta.url), { type: 'module' }),
  )
  private loaded?: { mesh: Mesh; parts: Parts }
  private readonly size = workersToSpare()
  /** Counts up when everything under way is to stop. */
  private round = 0

  load(mesh: Mesh, parts: Parts): void {
    this.stop()
    this.loaded = { mesh, parts }
  }

  /** Ends every job under way; their promises come back as undefined. */
  stop(): void {
    this.round++
    this.crew.dismiss()
  }

  /** A worker by its number, which has the mesh before it hears of anything else. */
  private thread(n: number): Comlink.Remote<GeometryApi> {
    while (this.crew.all.length <= n) {
      // Textures, materials and other maps stay here.
      const { positions, normals, indices, objects } = this.loaded!.mesh
      const bare = { positions, normals, indices, objects, materials: [], maps: [], warnings: [] }
      void this.crew.add().load(bare, this.loaded!.parts)
    }
    return this.crew.all[n]!
  }

  /** @returns undefined where it was stopped */
  compute(settings: MapSettings, hooks: JobHooks): Promise<VertexMap | undefined> {
    return this.crew.unlessDismissed(this.work(settings, hooks))
  }

  private async work(settings: MapSettings, hooks: JobHooks): Promise<VertexMap | undefined> {
    const mine = this.round
    const stopped = () => this.round !== mine
    const { components } = declarationOf(settings)
    const made = (values: Float32Array): VertexMap => ({ name: settings.name, components, values })
    if (!isCast(settings)) {
      return made(
        await this.thread(0).compute(
          settings,
          Comlink.proxy((share: number) => {
            if (!stopped()) hooks.progress(share)
          }),
        ),
      )
    }
    const { count, of } = await this.thread(0).points()
    if (stopped()) return undefined
    const declared = declarationOf(settings)
    const all = 'meetsAll' in declared && declared.meetsAll(settings)
    const threads = Array.from({ length: this.size }, (_, n) => this.thread(n))
    await Promise.all(threads.map(api => api.warm(all)))
    const sums = new Float32Array(count)
    const spread = (rays: number) => Float32Array.from(of, v => sums[v]! / rays)
    for (const { first: before, last } of rounds(settings.rays)) {
      let at = 0
      await Promise.all(
        threads.map(async api => {
          while (at < count && !stopped()) {
            await handsRest()
            const begin = at
            const end = (at = Math.min(count, at + CHUNK))
            const part = await api.cast({ settings, round: { from: begin, to: end, first: before, last } })
            for (let i = 0; i < part.length; i++) sums[begin + i]! += part[i]!
            hooks.progress((before + (last - before) * Math.min(1, end / count)) / settings.rays)
          }
        }),
      )
      if (stopped()) return undefined
      if (last < settings.rays || last <= FIRST_RAYS) hooks.preview(spread(last))
    }
    return made(spread(settings.rays))
  }
}
