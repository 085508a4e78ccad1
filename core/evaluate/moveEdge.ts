import { spreadOut, trianglesAround, type Around, type Surface } from '../geometry/surface'
import { atOnce } from '../pieces'
import { diffusing, meanOf } from './diffuse'
import type { MeshTables } from './tables'

/**
 * Moves the edge of a mask, where it passes one half, along the surface, and gives it a width.
 *
 * The way to the edge is measured from the straight line it makes through each triangle, and carried on over the
 * triangles by fast marching (Kimmel and Sethian, "Computing geodesic paths on manifolds", 1998); across obtuse corners
 * it follows the edges. A part without an edge is left as it is.
 * @param amount meters; positive grows what is above a half
 * @param width of the soft edge, in meters
 */
export const moveEdge = (tables: MeshTables, values: Float32Array, amount: number, width: number): Float32Array =>
  atOnce(movingEdge(tables, values, amount, width))
/** The same piece by piece: whoever runs it may do something else in between. */
export function* movingEdge(
  tables: MeshTables,
  values: Float32Array,
  amount: number,
  width: number,
): Generator<void, Float32Array> {
  const entry = diffusing(tables)
  const { surface } = entry
  const f = meanOf(surface, values)
  const half = Math.max(width, 1e-9) / 2
  const reach = Math.abs(amount) + half
  const front = new Front(surface, (entry.around ??= trianglesAround(surface)), reach * 1.5)
  const crossed = new Uint8Array(tables.parts.parts.length)
  front.begin(f, crossed)
  yield* front.marching()
  const { way } = front
  return spreadOut(
    surface,
    f.map((x, v) => {
      if (!crossed[surface.part[v]!]) return Math.min(1, Math.max(0, x))
      const signed = (x > 0.5 ? 1 : -1) * Math.min(way[v]!, reach * 2)
      return Math.min(1, Math.max(0, 0.5 + (signed + amount) / (2 * half)))
    }),
  )
}

/** Vertices that are passed before others have a turn. */
const PIECE = 8192

/** What comes first of what was put in, by a number each: a binary heap. */
class Heap {
  private readonly ways: number[] = []
  private readonly vertices: number[] = []
  get size(): number {
    return this.ways.length
  }

  push(way: number, vertex: number): void {
    const { ways, vertices } = this
    let i = ways.push(way) - 1
    vertices.push(vertex)
    for (let up = (i - 1) >> 1; i > 0 && ways[up]! > way; i = up, up = (i - 1) >> 1) {
      ways[i] = ways[up]!
      vertices[i] = vertices[up]!
    }
    ways[i] = way
    vertices[i] = vertex
  }

  /** The least number that is in it. */
  get least(): number {
    return this.ways[0]!
  }
  /** Takes out what has the least number. */
  pop(): number {
    const { ways, vertices } = this
    const first = vertices[0]!
    const way = ways.pop()!
    const vertex = vertices.pop()!
    const size = ways.length
    if (!size) return first
    let i = 0
    for (;;) {
      let child = 2 * i + 1
      if (child >= size) break
      if (child + 1 < size && ways[child + 1]! < ways[child]!) child++
      if (!(ways[child]! < way)) break
      ways[i] = ways[child]!
      vertices[i] = vertices[child]!
      i = child
    }
    ways[i] = way
    vertices[i] = vertex
    return first
  }
}

/** The way from the edge of a mask to each vertex, as far as it is looked for. Components are written out. */
class Front {
  readonly way: Float64Array
  private readonly done: Uint8Array
  private readonly heap = new Heap()

  /** @param farthest the longest way that is of interest, in meters */
  constructor(
    private readonly surface: Surface,
    private readonly around: Around,
    private readonly farthest: number,
  ) {
    this.way = new Float64Array(surface.count).fill(Infinity)
    this.done = new Uint8Array(surface.count)
  }

  private reach(vertex: number, way: number): void {
    if (way >= this.way[vertex]! || way > this.farthest) return
    this.way[vertex] = way
    this.heap.push(way, vertex)
  }

  /**
   * Begins at the corners of the triangles that the edge passes through.
   * @param crossed is set to 1 for each part that it crosses
   */
  begin(f: Float64Array, crossed: Uint8Array): void {
    const { triangles, part, positions } = this.surface
    /** The two ends of the edge's line in a triangle. */
    const ends = new Float64Array(6)
    for (let t = 0; t < triangles.length; t += 3) {
      const first = f[triangles[t]!]! > 0.5
      if (first === f[triangles[t + 1]!]! > 0.5 && first === f[triangles[t + 2]!]! > 0.5) continue
      let found = 0
      for (let k = 0; k < 3; k++) {
        const a = triangles[t + k]!
        const b = triangles[t + ((k + 1) % 3)]!
        if (f[a]! > 0.5 === f[b]! > 0.5) continue
        const share = (0.5 - f[a]!) / (f[b]! - f[a]!)
        for (let c = 0; c < 3; c++) {
          const from = positions[a * 3 + c]!
          ends[found++] = from + (positions[b * 3 + c]! - from) * share
        }
      }
      for (let k = 0; k < 3; k++) {
        const v = triangles[t + k]!
        crossed[part[v]!] = 1
        this.reach(v, toSegment(positions, v * 3, ends))
      }
    }
  }

  /** Goes on outward, to the nearest first, some thousand vertices at a time. */
  *marching(): Generator<void, void> {
    const { heap, way, done } = this
    const { starts, list } = this.around
    let passed = 0
    while (heap.size) {
      const d = heap.least
      const v = heap.pop()
      if (done[v] || d > way[v]!) continue
      done[v] = 1
      if (++passed % PIECE === 0) yield
      for (let k = starts[v]!; k < starts[v + 1]!; k++) this.carryOn(v, d, list[k]! * 3)
    }
  }

  /** From a vertex, whose way is known, to the other corners of a triangle. */
  private carryOn(v: number, d: number, t: number): void {
    const { way, done } = this
    const { triangles, positions: p } = this.surface
    const sum = triangles[t]! + triangles[t + 1]! + triangles[t + 2]!
    for (let c = 0; c < 3; c++) {
      const x = triangles[t + c]!
      if (x === v || done[x]) continue
      const ax = p[v * 3]! - p[x * 3]!
      const ay = p[v * 3 + 1]! - p[x * 3 + 1]!
      const az = p[v * 3 + 2]! - p[x * 3 + 2]!
      let best = d + Math.hypot(ax, ay, az)
      const w = sum - v - x
      if (done[w]) {
        const bx = p[w * 3]! - p[x * 3]!
        const by = p[w * 3 + 1]! - p[x * 3 + 1]!
        const bz = p[w * 3 + 2]! - p[x * 3 + 2]!
        const aa = ax * ax + ay * ay + az * az
        const ab = ax * bx + ay * by + az * bz
        const bb = bx * bx + by * by + bz * bz
        best = Math.min(best, across(aa, ab, bb, d, way[w]!))
      }
      this.reach(x, best)
    }
  }
}

/** How far a place is from the line between two others, which lie one behind the other. */
function toSegment(places: Float64Array, at: number, ends: Float64Array): number {
  const x = ends[3]! - ends[0]!
  const y = ends[4]! - ends[1]!
  const z = ends[5]! - ends[2]!
  const px = places[at]!
  const py = places[at + 1]!
  const pz = places[at + 2]!
  const l = x * x + y * y + z * z
  const along = (px - ends[0]!) * x + (py - ends[1]!) * y + (pz - ends[2]!) * z
  const t = l > 0 ? Math.min(1, Math.max(0, along / l)) : 0
  return Math.hypot(px - (ends[0]! + x * t), py - (ends[1]! + y * t), pz - (ends[2]! + z * t))
}

/**
 * The way to a corner from the ways `da` and `db` to the two others, as if a straight front came through the triangle;
 * Infinity where it would come from outside.
 * @param aa products of the sides from the corner to the two others: of one with itself, of both, of the other
 */
function across(aa: number, ab: number, bb: number, da: number, db: number): number {
  // The front's gradient g in the triangle's plane has g·a = da − d and g·b = db − d, and length 1.
  const det = aa * bb - ab * ab
  if (!(det > 1e-30)) return Infinity
  const iaa = bb / det
  const iab = -ab / det
  const ibb = aa / det
  const q = iaa + 2 * iab + ibb
  const l = iaa * da + iab * (da + db) + ibb * db
  const c = iaa * da * da + 2 * iab * da * db + ibb * db * db - 1
  const root = l * l - q * c
  if (root < 0) return Infinity
  const d = (l + Math.sqrt(root)) / q
  // Where the front comes in between a and b, both weights are positive.
  const wa = iaa * (da - d) + iab * (db - d)
  const wb = iab * (da - d) + ibb * (db - d)
  return d >= Math.max(da, db) && wa <= 0 && wb <= 0 ? d : Infinity
}
