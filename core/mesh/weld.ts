import { boundsOf, type Mesh } from './mesh'
import { UnionFind } from './unionFind'

/** The share of the mesh's diagonal within which two vertices count as one, unless a distance is given. */
export const WELD_SHARE = 1e-6

const mixBits = (a: number, b: number): number => {
  let h = Math.imul(a ^ b, 0x9e3779b1)
  h ^= h >>> 15
  h = Math.imul(h, 0x85ebca77)
  return h ^ (h >>> 13)
}

/**
 * Welds vertices by position: for topology only, nothing is moved or merged in the mesh.
 *
 * Returns for every vertex the vertex that stands for it. Vertices of different objects never weld. A grid with cells
 * up to 64 distances wide is kept in an open hash table; a vertex nearer than one distance to the wall of its cell also
 * asks the cells behind that wall, so most vertices ask one cell.
 *
 * @param distance in meters, at least 0
 * @param extra further values that must be equal for two vertices to weld (such as UVs), two per vertex
 */
export function weld(mesh: Pick<Mesh, 'positions' | 'objects'>, distance: number, extra?: Float32Array): Uint32Array {
  const { positions, objects } = mesh
  const count = positions.length / 3
  const rep = new Uint32Array(count)
  const { min, max } = boundsOf(positions)
  const spacing = Math.hypot(...max.map((x, k) => x - min[k]!)) / Math.sqrt(Math.max(1, count))
  // Wide cells seldom make a vertex ask its neighbors; cells wider than the vertices are apart hold too many.
  const wide = Math.min(64, Math.max(2, spacing / Math.max(distance, 1e-30)))
  const cell = Math.max(distance * wide, 1e-12)
  const reach = distance * distance
  const mask = 2 ** Math.ceil(Math.log2(Math.max(16, count * 2))) - 1
  /** First vertex of each bucket plus 1, and the next vertex of the same bucket plus 1. */
  const heads = new Uint32Array(mask + 1)
  const nexts = new Uint32Array(count)
  let salt = 0
  const bucketOf = (x: number, y: number, z: number) => mixBits(mixBits(mixBits(x | 0, salt), y | 0), z | 0) & mask
  const search = (v: number, bucket: number): number => {
    const px = positions[v * 3]!
    const py = positions[v * 3 + 1]!
    const pz = positions[v * 3 + 2]!
    for (let w = heads[bucket]!; w; w = nexts[w - 1]!) {
      const q = (w - 1) * 3
      const dx = positions[q]! - px
      const dy = positions[q + 1]! - py
      const dz = positions[q + 2]! - pz
      if (
        dx * dx + dy * dy + dz * dz <= reach &&
        w - 1 >= first &&
        (!extra || (extra[v * 2] === extra[w * 2 - 2] && extra[v * 2 + 1] === extra[w * 2 - 1]))
      )
        return w - 1
    }
    return -1
  }
  let first = 0
  for (const object of objects) {
    salt++
    first = object.firstVertex
    for (let v = first; v < first + object.vertices; v++) {
      const x = positions[v * 3]! / cell
      const y = positions[v * 3 + 1]! / cell
      const z = positions[v * 3 + 2]! / cell
      const cx = Math.floor(x)
      const cy = Math.floor(y)
      const cz = Math.floor(z)
      const home = bucketOf(cx, cy, cz)
      let found = search(v, home)
      const side = (f: number) => Number(f > 1 - 1 / wide) - Number(f < 1 / wide)
      const sx = side(x - cx)
      const sy = side(y - cy)
      const sz = side(z - cz)
      if (found < 0 && (sx || sy || sz)) {
        for (let i = 1; i < 8 && found < 0; i++) {
          if ((i & 1 && !sx) || (i & 2 && !sy) || (i & 4 && !sz)) continue
          found = search(v, bucketOf(cx + (i & 1 ? sx : 0), cy + (i & 2 ? sy : 0), cz + (i & 4 ? sz : 0)))
        }
      }
      if (found >= 0) rep[v] = rep[found]!
      else {
        rep[v] = v
        nexts[v] = heads[home]!
        heads[home] = v + 1
      }
    }
  }
  return rep
}

/** Pieces connected over vertices that `rep` makes one. */
export function connect(mesh: Pick<Mesh, 'indices'>, rep: Uint32Array): UnionFind {
  const { indices } = mesh
  const sets = new UnionFind(rep.length)
  for (let i = 0; i < indices.length; i += 3) {
    const a = rep[indices[i]!]!
    sets.union(a, rep[indices[i + 1]!]!)
    sets.union(a, rep[indices[i + 2]!]!)
  }
  return sets
}
