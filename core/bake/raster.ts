import type { Mesh } from '../mesh/mesh'
import { pointSet, type SurfacePoints } from '../mesh/sample'

/** The texels of a square image that the UV layout covers: texel number (row by row from the top) and its surface point. */
export interface Texels { size: number, texel: Uint32Array, points: SurfacePoints }

/**
 * Rasterizes the triangles in UV space. A texel belongs to the triangle that holds its center; where two hold it (a
 * shared edge, overlapping islands), to the one that comes first. UVs repeat: whatever lies outside 0..1 is wrapped.
 * glTF's v runs downward, as rows do.
 * @param size texels along each side
 */
export function rasterizeUvs(mesh: Mesh, size: number): Texels {
  const { uvs, indices } = mesh
  if (!uvs) throw new Error('the mesh has no UVs')
  const owner = new Int32Array(size * size).fill(-1), us = new Float32Array(size * size), vs = new Float32Array(size * size)
  const wrap = (x: number) => ((x % size) + size) % size
  let covered = 0
  for (let t = 0; t < indices.length / 3; t++) {
    const [ax, ay, bx, by, cx, cy] = [0, 1, 2].flatMap((c) => {
      const v = indices[t * 3 + c]! * 2
      return [uvs[v]! * size - 0.5, uvs[v + 1]! * size - 0.5]
    }) as [number, number, number, number, number, number]
    const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
    if (!(Math.abs(area) > 1e-12)) continue
    const top = Math.ceil(Math.min(ay, by, cy)), bottom = Math.floor(Math.max(ay, by, cy))
    const left = Math.ceil(Math.min(ax, bx, cx)), right = Math.floor(Math.max(ax, bx, cx))
    // Malformed UVs may span thousands of tiles; each texel is written once, so stop after one full turn.
    for (let y = top; y <= Math.min(bottom, top + size - 1); y++) {
      for (let x = left; x <= Math.min(right, left + size - 1); x++) {
        const u = ((x - ax) * (cy - ay) - (cx - ax) * (y - ay)) / area
        const v = ((bx - ax) * (y - ay) - (x - ax) * (by - ay)) / area
        if (u < 0 || v < 0 || u + v > 1) continue
        const texel = wrap(y) * size + wrap(x)
        if (owner[texel]! >= 0) continue
        owner[texel] = t
        us[texel] = u
        vs[texel] = v
        covered++
      }
    }
  }
  const points = pointSet(covered), texel = new Uint32Array(covered)
  for (let i = 0, n = 0; i < owner.length; i++) {
    if (owner[i]! < 0) continue
    points.triangle[n] = owner[i]!
    points.u[n] = us[i]!
    points.v[n] = vs[i]!
    texel[n++] = i
  }
  return { size, texel, points }
}
