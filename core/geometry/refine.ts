import { EdgeNumbers } from '../mesh/edges'
import type { Mesh } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'

/** No analysis mesh has more triangles than this, unless the file itself has. */
export const MOST_TRIANGLES = 4_000_000

/** A column of values at vertices, `size` numbers each. */
interface Column {
  values: Float32Array
  size: number
}
/** What becomes of one object: its own vertices and triangles, which count from its first vertex. */
interface Piece {
  columns: Float32Array[]
  count: number
  triangles: Uint32Array
  /** The old triangle that each lies in. */
  parents: Uint32Array
  /** 1 where a triangle was left whole by a round: its edges are short, and stay as they are. */
  settled: Uint8Array
}
/** The middles of the edges that are too long. */
interface Middles {
  /** The new vertex on each corner's edge to the next corner, for each triangle; `NONE` where the edge stays whole. */
  ofCorner: Int32Array
  /** The two ends of each edge that is split, in the order of the new vertices. */
  ends: Uint32Array
  /** Triangles that they add. */
  more: number
}
const NONE = -1

/** Each round halves the longest edges. */
const MOST_ROUNDS = 16
/** An object has fewer vertices, so that edges and vertices can be counted in 32 bits. */
const MOST_VERTICES = 2 ** 26
function squared(a: number, b: number, p: Float32Array): number {
  const x = p[a * 3]! - p[b * 3]!
  const y = p[a * 3 + 1]! - p[b * 3 + 1]!
  const z = p[a * 3 + 2]! - p[b * 3 + 2]!
  return x * x + y * y + z * z
}

/**
 * Splits triangles until no edge is longer than `edge` meters, without changing the shape: new vertices lie on the old
 * edges, normals, UVs and maps between theirs. Both sides of an edge split it at the same place, also where vertices
 * are split by UVs, so no cracks open. Runs of objects and materials stay runs.
 * @param parts of the same mesh; those that come back are the same parts on the finer one
 * @returns `complete` is false where the limit on triangles came first; `parents` are the old triangles that the new
 *   ones lie in. Of each object the old vertices come first.
 */
export function refine(
  mesh: Mesh,
  parts: Parts,
  edge: number,
  most = MOST_TRIANGLES,
): { mesh: Mesh; parts: Parts; complete: boolean; parents: Uint32Array } {
  const columns: Column[] = [
    { values: mesh.positions, size: 3 },
    { values: mesh.normals, size: 3 },
    ...(mesh.uvs ? [{ values: mesh.uvs, size: 2 }] : []),
    ...mesh.maps.map(m => ({ values: m.values, size: m.components })),
  ]
  let total = mesh.indices.length / 3
  let complete = true
  const pieces = mesh.objects.map(object => {
    const piece = pieceOf(mesh, object, columns)
    for (let round = 0; round < MOST_ROUNDS; round++) {
      const middles = middlesOf(piece, edge * edge, most - total)
      if (!middles.more) break
      if (total + middles.more > most || piece.count + middles.ends.length / 2 >= MOST_VERTICES) {
        complete = false
        break
      }
      split(piece, middles, columns)
      total += middles.more
    }
    return piece
  })
  const fine = joined(mesh, pieces, columns)
  const partOfVertex = new Uint32Array(fine.mesh.positions.length / 3)
  const partOfTriangle = new Uint32Array(fine.parents.length)
  const patchOfTriangle = new Uint32Array(fine.parents.length)
  const { indices } = fine.mesh
  for (let t = 0, i = 0; t < partOfTriangle.length; t++) {
    const part = parts.partOfTriangle[fine.parents[t]!]!
    partOfTriangle[t] = part
    patchOfTriangle[t] = parts.patchOfTriangle[fine.parents[t]!]!
    for (const last = i + 3; i < last; i++) partOfVertex[indices[i]!] = part
  }
  return { ...fine, parts: { ...parts, partOfTriangle, partOfVertex, patchOfTriangle }, complete }
}

function pieceOf(mesh: Mesh, object: Mesh['objects'][number], columns: readonly Column[]): Piece {
  const { firstTriangle, firstVertex, vertices: count } = object
  const triangles = mesh.indices.slice(firstTriangle * 3, (firstTriangle + object.triangles) * 3)
  for (let i = 0; i < triangles.length; i++) triangles[i]! -= firstVertex
  return {
    columns: columns.map(c => c.values.slice(firstVertex * c.size, (firstVertex + count) * c.size)),
    count,
    triangles,
    parents: Uint32Array.from({ length: object.triangles }, (_, i) => firstTriangle + i),
    settled: new Uint8Array(object.triangles),
  }
}

/**
 * Middles of the edges whose squared length is above a limit, each once.
 * @param room for how many more triangles there is room; where they are too many, only their number is told
 */
function middlesOf({ columns, count, triangles, settled }: Piece, limit: number, room: number): Middles {
  const p = columns[0]!
  const ofCorner = new Int32Array(triangles.length).fill(NONE)
  let more = 0
  for (let t = 0, i = 0; t < triangles.length; t += 3, i++) {
    if (settled[i]) continue
    const a = triangles[t]!
    const b = triangles[t + 1]!
    const c = triangles[t + 2]!
    if (squared(a, b, p) > limit) more += mark(ofCorner, t)
    if (squared(b, c, p) > limit) more += mark(ofCorner, t + 1)
    if (squared(c, a, p) > limit) more += mark(ofCorner, t + 2)
  }
  if (!more || more > room) return { ofCorner, ends: new Uint32Array(0), more }
  const edges = new EdgeNumbers(more)
  for (let t = 0, i = 0; t < triangles.length; t += 3, i++) {
    if (settled[i]) continue
    const a = triangles[t]!
    const b = triangles[t + 1]!
    const c = triangles[t + 2]!
    if (ofCorner[t] !== NONE) ofCorner[t] = count + edges.numberOf(a, b)
    if (ofCorner[t + 1] !== NONE) ofCorner[t + 1] = count + edges.numberOf(b, c)
    if (ofCorner[t + 2] !== NONE) ofCorner[t + 2] = count + edges.numberOf(c, a)
  }
  return { ofCorner, ends: edges.ends, more }
}
/** Says of a corner's edge that it is split. */
function mark(ofCorner: Int32Array, corner: number): number {
  ofCorner[corner] = 0
  return 1
}
/** The corner after one of a triangle, the first one after its third. */
const nextCorner = (corner: number): number => (corner % 3 === 2 ? corner - 2 : corner + 1)

/** Splits the triangles of a piece at the middles of its edges: each becomes two, three or four where it has some. */
function split(piece: Piece, { ofCorner, ends, more }: Middles, columns: readonly Column[]): void {
  piece.columns = piece.columns.map((values, c) => between(values, columns[c]!.size, ends, piece.count, c === 1))
  piece.count += ends.length / 2
  const { triangles, parents } = piece
  const next = new Uint32Array(triangles.length + more * 3)
  const from = new Uint32Array(next.length / 3)
  const settled = new Uint8Array(from.length)
  const p = piece.columns[0]!
  let out = 0
  for (let t = 0; t < parents.length; t++) {
    const before = out
    out = splitTriangle(triangles, ofCorner, t * 3, p, next, out)
    for (let made = before / 3; made < out / 3; made++) from[made] = parents[t]!
    if (out === before + 3) settled[before / 3] = 1
  }
  piece.triangles = next
  piece.parents = from
  piece.settled = settled
}

/**
 * One triangle at the middles of its edges.
 * @param first its first corner
 * @param p positions, with the middles among them: of the two ways to cut a rest, the shorter one is taken
 * @param to triangles of which the new ones become part, from `out` on
 * @returns where they end
 */
function splitTriangle(
  triangles: Uint32Array,
  ofCorner: Int32Array,
  first: number,
  p: Float32Array,
  to: Uint32Array,
  out: number,
): number {
  const marks = Number(ofCorner[first]! >= 0) + Number(ofCorner[first + 1]! >= 0) + Number(ofCorner[first + 2]! >= 0)
  // Turned so that the first edge has a middle, if any has; of two, the third edge has none.
  let i = first
  while (marks && (ofCorner[i]! < 0 || (marks === 2 && ofCorner[nextCorner(i)]! < 0))) i = nextCorner(i)
  const j = nextCorner(i)
  const k = nextCorner(j)
  const x = triangles[i]!
  const y = triangles[j]!
  const z = triangles[k]!
  if (!marks) return put(to, out, x, y, z)
  const m = ofCorner[i]!
  if (marks === 1) return put(to, put(to, out, x, m, z), m, y, z)
  const n = ofCorner[j]!
  if (marks === 3) {
    const o = ofCorner[k]!
    const corners = put(to, put(to, put(to, out, x, m, o), m, y, n), o, n, z)
    return put(to, corners, m, n, o)
  }
  const cut = put(to, out, m, y, n)
  if (squared(m, z, p) <= squared(x, n, p)) return put(to, put(to, cut, x, m, z), m, n, z)
  return put(to, put(to, cut, x, m, n), x, n, z)
}

/** Writes a triangle. @returns where the next one goes */
function put(to: Uint32Array, out: number, a: number, b: number, c: number): number {
  to[out] = a
  to[out + 1] = b
  to[out + 2] = c
  return out + 3
}

/** The pieces end to end as a mesh. */
function joined(
  mesh: Mesh,
  pieces: readonly Piece[],
  columns: readonly Column[],
): { mesh: Mesh; parents: Uint32Array } {
  let vertex = 0
  let triangle = 0
  const objects = mesh.objects.map((object, i) => {
    const { count, triangles } = pieces[i]!
    const own = {
      ...object,
      firstVertex: vertex,
      firstTriangle: triangle,
      vertices: count,
      triangles: triangles.length / 3,
    }
    vertex += own.vertices
    triangle += own.triangles
    return own
  })
  const indices = new Uint32Array(triangle * 3)
  const parents = new Uint32Array(triangle)
  pieces.forEach((piece, i) => {
    const { firstTriangle, firstVertex } = objects[i]!
    for (let k = 0; k < piece.triangles.length; k++) indices[firstTriangle * 3 + k] = piece.triangles[k]! + firstVertex
    parents.set(piece.parents, firstTriangle)
  })
  const [positions, normals, ...rest] = columns.map((c, k) => {
    const all = new Float32Array(vertex * c.size)
    pieces.forEach((piece, i) => all.set(piece.columns[k]!, objects[i]!.firstVertex * c.size))
    return all
  }) as [Float32Array, Float32Array, ...Float32Array[]]
  const uvs = mesh.uvs && rest.shift()
  // How many of the new triangles lie in those before an old one: runs of materials begin there.
  const starts = new Uint32Array(mesh.indices.length / 3 + 1)
  for (const parent of parents) starts[parent + 1]!++
  for (let i = 1; i < starts.length; i++) starts[i]! += starts[i - 1]!
  const fine: Mesh = {
    ...mesh,
    positions,
    normals,
    ...(uvs && { uvs }),
    indices,
    objects,
    maps: mesh.maps.map((m, i) => ({ ...m, values: rest[i]! })),
    materials: mesh.materials.map(m => ({
      ...m,
      firstTriangle: starts[m.firstTriangle]!,
      triangles: starts[m.firstTriangle + m.triangles]! - starts[m.firstTriangle]!,
    })),
  }
  return { mesh: fine, parents }
}

/** A column with the middles of some edges behind it; `unit` makes three numbers a unit vector again. */
function between(values: Float32Array, size: number, ends: Uint32Array, count: number, unit: boolean): Float32Array {
  const all = new Float32Array((count + ends.length / 2) * size)
  all.set(values)
  for (let i = 0, at = count * size; i < ends.length; i += 2, at += size) {
    for (let k = 0; k < size; k++) all[at + k] = (values[ends[i]! * size + k]! + values[ends[i + 1]! * size + k]!) / 2
    if (!unit) continue
    const length = Math.sqrt(all[at]! ** 2 + all[at + 1]! ** 2 + all[at + 2]! ** 2)
    if (length > 1e-6) for (let k = 0; k < 3; k++) all[at + k]! /= length
    else all.copyWithin(at, ends[i]! * 3, ends[i]! * 3 + 3)
  }
  return all
}
