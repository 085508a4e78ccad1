import { FrontSide, Ray } from 'three'
import { tilingOf } from '../../core/bake/raster'
import { Transfer } from '../../core/dense/transfer'
import type { Kernels } from '../../core/kernels/kernels'
import { findParts } from '../../core/mesh/parts'
import { mooringWinch } from '../../demo/mooringWinch'
import { mooringWinchDense } from '../../demo/mooringWinchDense'

type Medians = (rounds: number, tasks: Record<string, () => unknown>) => Promise<Record<string, number>>

const SIZE = 1024
const CAGE = { match: 'part', outward: 0.006, inward: 0.006 } as const

/**
 * Rays from the light winch to the dense one: texel by texel as they are cast, and the same rays by a bare loop over
 * the same trees.
 */
export async function dense(kernels: Kernels, medians: Medians) {
  const parted = (mesh: ReturnType<typeof mooringWinchDense>) => ({ mesh, parts: findParts(mesh) })
  const light = parted(mooringWinch().mesh)
  const fine = parted(mooringWinchDense())
  const transfer = new Transfer(light, fine, CAGE)
  const tiling = tilingOf(light.mesh)
  const rows = () => transfer.rows(kernels.texels, tiling, 1001, SIZE, 0, SIZE)
  const hits = rows()
  const count = hits.texel.length
  const trees = Array.from(light.parts.parts, (_, i) => transfer['scene'].part(i)!)
  const ray = new Ray()
  let met = 0
  const t = await medians(5, {
    ours: rows,
    bare: () => {
      met = 0
      for (let i = 0; i < count; i++) {
        const n = hits.normals.subarray(i * 3, i * 3 + 3)
        const p = hits.places.subarray(i * 3, i * 3 + 3)
        ray.origin.set(p[0]! + n[0]! * CAGE.outward, p[1]! + n[1]! * CAGE.outward, p[2]! + n[2]! * CAGE.outward)
        ray.direction.set(-n[0]!, -n[1]!, -n[2]!)
        if (trees[hits.part[i]!]!.raycastFirst(ray, FrontSide, 0, CAGE.outward + CAGE.inward)) met++
      }
    },
  })
  return {
    triangles: fine.mesh.indices.length / 3,
    rays: count,
    raysPerSecond: Math.round((count / t.ours!) * 1000),
    bareRaysPerSecond: Math.round((count / t.bare!) * 1000),
    shareOfBareRate: Number((t.bare! / t.ours!).toPrecision(4)),
    hitsAgree: met === hits.met.reduce((a, b) => a + b, 0),
  }
}
