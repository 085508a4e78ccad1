import type { Mesh } from '../mesh/mesh'
import { pointSet, type SurfacePoints } from '../mesh/sample'
import { tileOf } from '../mesh/uvs'

type Laid = Pick<Mesh, 'uvs' | 'indices'>

/** Texels of some rows of a square image that the UV layout covers: number (row by row, from the first of the rows) and surface point. */
export interface Texels { texel: Uint32Array, points: SurfacePoints }

/**
 * The tiles of a layout. UDIM numbers 1001 + column + 10 row, with columns 0 to 9; a layout that reaches anywhere else
 * repeats: all of it is wrapped into tile 1001.
 */
export interface Tiling { tiles: number[], repeats: boolean, triangles(tile: number): Uint32Array }

export function tilingOf({ uvs, indices }: Laid): Tiling {
  const count = indices.length / 3, all = () => Uint32Array.from({ length: count }, (_, t) => t), lists = new Map<number, number[]>()
  if (!uvs) return { tiles: [], repeats: false, triangles: () => new Uint32Array(0) }
  for (let t = 0; t < count; t++) {
    const a = indices[t * 3]!, b = indices[t * 3 + 1]!, c = indices[t * 3 + 2]!, tile = tileOf(uvs, a, b, c)
    const u = Math.floor((uvs[a * 2]! + uvs[b * 2]! + uvs[c * 2]!) / 3)
    if (!(tile >= 1001 && tile <= 9999 && u >= 0 && u <= 9)) return { tiles: [1001], repeats: true, triangles: all }
    const list = lists.get(tile)
    if (list) list.push(t)
    else lists.set(tile, [t])
  }
  return { tiles: [...lists.keys()].sort((a, b) => a - b), repeats: false, triangles: tile => Uint32Array.from(lists.get(tile) ?? []) }
}

/** Where a tile begins in UV space, v downward. */
export const tileOrigin = (tile: number): [number, number] => [(tile - 1001) % 10, -Math.floor((tile - 1001) / 10)]

/**
 * Rasterizes triangles in UV space. A texel belongs to the triangle that holds its middle; where two hold it (a shared
 * edge, overlapping islands), to the one that comes first. glTF's v runs downward, as rows do.
 * @param size texels along each side of the tile
 * @param from first row, and `to` the one behind the last
 */
export function rasterizeRows({ uvs, indices }: Laid, { tiling, tile, triangles }: { tiling: Tiling, tile: number, triangles: Uint32Array }, size: number, from: number, to: number): Texels {
  const rows = to - from, owner = new Int32Array(rows * size).fill(-1), us = new Float32Array(rows * size), vs = new Float32Array(rows * size)
  const [u0, v0] = tiling.repeats ? [0, 0] : tileOrigin(tile), wrap = (x: number) => ((x % size) + size) % size
  let covered = 0
  for (const t of triangles) {
    const a = indices[t * 3]! * 2, b = indices[t * 3 + 1]! * 2, c = indices[t * 3 + 2]! * 2
    const ay = (uvs![a + 1]! - v0) * size - 0.5, by = (uvs![b + 1]! - v0) * size - 0.5, cy = (uvs![c + 1]! - v0) * size - 0.5
    let top = Math.ceil(Math.min(ay, by, cy)), bottom = Math.floor(Math.max(ay, by, cy))
    if (!tiling.repeats) {
      top = Math.max(top, from)
      bottom = Math.min(bottom, to - 1)
    }
    // Malformed UVs may span thousands of tiles; each texel is written once, so stop after one full turn.
    else bottom = Math.min(bottom, top + size - 1)
    if (!(top <= bottom)) continue
    const ax = (uvs![a]! - u0) * size - 0.5, bx = (uvs![b]! - u0) * size - 0.5, cx = (uvs![c]! - u0) * size - 0.5
    const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
    if (!(Math.abs(area) > 1e-12)) continue
    let left = Math.ceil(Math.min(ax, bx, cx)), right = Math.floor(Math.max(ax, bx, cx))
    if (tiling.repeats) right = Math.min(right, left + size - 1)
    else {
      left = Math.max(left, 0)
      right = Math.min(right, size - 1)
    }
    const uByX = (cy - ay) / area, uByY = (cx - ax) / area, vByX = (by - ay) / area, vByY = (bx - ax) / area
    for (let y = top; y <= bottom; y++) {
      const row = tiling.repeats ? wrap(y) - from : y - from
      if (row < 0 || row >= rows) continue
      for (let x = left; x <= right; x++) {
        const u = (x - ax) * uByX - (y - ay) * uByY, v = (y - ay) * vByY - (x - ax) * vByX
        if (u < 0 || v < 0 || u + v > 1) continue
        const texel = row * size + (tiling.repeats ? wrap(x) : x)
        if (owner[texel]! >= 0) continue
        owner[texel] = t
        us[texel] = u
        vs[texel] = v
        covered++
      }
    }
  }
  const points = pointSet(covered), texel = new Uint32Array(covered)
  for (let i = 0, n = 0; n < covered; i++) {
    if (owner[i]! < 0) continue
    points.triangle[n] = owner[i]!
    points.u[n] = us[i]!
    points.v[n] = vs[i]!
    texel[n++] = i
  }
  return { texel, points }
}

/** One tile's image, all rows. */
export function rasterizeTile(mesh: Laid, size: number, tile = 1001, tiling = tilingOf(mesh)): Texels {
  return rasterizeRows(mesh, { tiling, tile, triangles: tiling.triangles(tile) }, size, 0, size)
}
