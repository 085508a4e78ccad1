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

/** Bits of a vertex that is near the lower or the upper wall of its cell, along x; two more each along y and z. */
const LOWER = 1
const UPPER = 2

/** The cells of a grid in which vertices are, as hashes of 32 bits; objects have grids of their own. */
class Cells {
  readonly home: Int32Array
  /** The hashes that `around` found. */
  readonly others = new Int32Array(7)
  private readonly walls: Uint8Array
  private readonly cell: number

  /** @param distance a vertex nearer than this to a wall also asks behind it, in meters */
  constructor(
    private readonly positions: Float32Array,
    objects: Mesh['objects'],
    distance: number,
  ) {
    const count = positions.length / 3
    const { min, max } = boundsOf(positions)
    const spacing = Math.hypot(...max.map((x, k) => x - min[k]!)) / Math.sqrt(Math.max(1, count))
    // Wide cells seldom make a vertex ask its neighbors; cells wider than the vertices are apart hold too many.
    const wide = Math.min(64, Math.max(2, spacing / Math.max(distance, 1e-30)))
    this.cell = Math.max(distance * wide, 1e-12)
    this.home = new Int32Array(count)
    this.walls = new Uint8Array(count)
    objects.forEach((object, o) => this.fill(object.firstVertex, object.vertices, o + 1, 1 / wide))
  }

  private fill(first: number, count: number, salt: number, near: number): void {
    const { positions, cell, home, walls } = this
    const side = (f: number) => Number(f < near) * LOWER + Number(f > 1 - near) * UPPER
    for (let v = first; v < first + count; v++) {
      const x = positions[v * 3]! / cell
      const y = positions[v * 3 + 1]! / cell
      const z = positions[v * 3 + 2]! / cell
      const cx = Math.floor(x)
      const cy = Math.floor(y)
      const cz = Math.floor(z)
      home[v] = hashOf(salt, cx, cy, cz)
      walls[v] = side(x - cx) | (side(y - cy) << 2) | (side(z - cz) << 4)
    }
  }

  /** Writes the cells behind the walls that a vertex is near to `others`, and returns how many there are. */
  around(v: number, object: number): number {
    const walls = this.walls[v]!
    if (!walls) return 0
    const step = (bits: number) => Number((bits & UPPER) !== 0) - Number((bits & LOWER) !== 0)
    const sx = step(walls)
    const sy = step(walls >> 2)
    const sz = step(walls >> 4)
    const cx = Math.floor(this.positions[v * 3]! / this.cell)
    const cy = Math.floor(this.positions[v * 3 + 1]! / this.cell)
    const cz = Math.floor(this.positions[v * 3 + 2]! / this.cell)
    let count = 0
    for (let i = 1; i < 8; i++) {
      if ((i & 1 && !sx) || (i & 2 && !sy) || (i & 4 && !sz)) continue
      this.others[count++] = hashOf(object + 1, cx + (i & 1 ? sx : 0), cy + (i & 2 ? sy : 0), cz + (i & 4 ? sz : 0))
    }
    return count
  }
}

const hashOf = (salt: number, x: number, y: number, z: number): number =>
  mixBits(mixBits(mixBits(x | 0, salt), y | 0), z | 0)

/**
 * Welds vertices by position: for topology only, nothing is moved or merged in the mesh.
 *
 * Returns for every vertex the vertex that stands for it. Vertices of different objects never weld. A grid with cells
 * up to 64 distances wide is kept in a hash table; a vertex nearer than one distance to the wall of its cell also asks
 * the cells behind that wall, so most vertices ask one cell.
 *
 * @param distance in meters, at least 0
 * @param extra further values that must be equal for two vertices to weld (such as UVs), two per vertex
 */
export function weld(
  { positions, objects }: Pick<Mesh, 'positions' | 'objects'>,
  distance: number,
  extra?: Float32Array,
): Uint32Array {
  const count = positions.length / 3
  const rep = new Uint32Array(count)
  const reach = distance * distance
  const cells = new Cells(positions, objects, distance)
  const { home, others } = cells
  const mask = 2 ** Math.ceil(Math.log2(Math.max(16, count * 2))) - 1
  /** First vertex of each bucket plus 1, and the next vertex of the same bucket plus 1. */
  const heads = new Uint32Array(mask + 1)
  const nexts = new Uint32Array(count)
  const meets = (v: number, w: number): boolean => {
    const dx = positions[w * 3]! - positions[v * 3]!
    const dy = positions[w * 3 + 1]! - positions[v * 3 + 1]!
    const dz = positions[w * 3 + 2]! - positions[v * 3 + 2]!
    if (dx * dx + dy * dy + dz * dz > reach) return false
    return !extra || (extra[v * 2] === extra[w * 2] && extra[v * 2 + 1] === extra[w * 2 + 1])
  }
  /** The vertex that stands for those in a cell that `v` meets, or −1. */
  const search = (v: number, hash: number, first: number): number => {
    for (let w = heads[hash & mask]!; w > first; w = nexts[w - 1]!) {
      if (home[w - 1] === hash && meets(v, w - 1)) return w - 1
    }
    return -1
  }
  for (let o = 0; o < objects.length; o++) {
    const first = objects[o]!.firstVertex
    const end = first + objects[o]!.vertices
    for (let v = first; v < end; v++) {
      const hash = home[v]!
      const head = heads[hash & mask]!
      let found = head > first ? search(v, hash, first) : -1
      const more = found < 0 ? cells.around(v, o) : 0
      for (let i = 0; i < more && found < 0; i++) found = search(v, others[i]!, first)
      rep[v] = found < 0 ? v : found
      if (found < 0) {
        nexts[v] = head
        heads[hash & mask] = v + 1
      }
    }
  }
  return rep
}

/** What was welded last of some vertices: whoever finds parts and whoever looks for gaps ask alike. */
const known = new WeakMap<Float32Array, { objects: Mesh['objects']; distance: number; rep: Uint32Array }>()

/** The same as {@link weld}, kept while the vertices are: not to be written into. */
export function welded(mesh: Pick<Mesh, 'positions' | 'objects'>, distance: number): Uint32Array {
  const old = known.get(mesh.positions)
  if (old?.objects === mesh.objects && old.distance === distance) return old.rep
  const rep = weld(mesh, distance)
  known.set(mesh.positions, { objects: mesh.objects, distance, rep })
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
