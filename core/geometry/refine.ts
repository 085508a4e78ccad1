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
}
/** The middles of the edges that are too long: the number of the new vertex by edge, and the two ends of each. */
interface Middles {
  byEdge: Map<number, number>
  ends: number[]
  /** Triangles that they add. */
  more: number
}

/** Ends of edges are told apart up to this many vertices of an object. */
const MOST_VERTICES = 2 ** 26
/** Each round halves the longest edges. */
const MOST_ROUNDS = 16
const edgeOf = (a: number, b: number): number => (a < b ? a * MOST_VERTICES + b : b * MOST_VERTICES + a)
const squared = (a: number, b: number, p: Float32Array): number =>
  (p[a * 3]! - p[b * 3]!) ** 2 + (p[a * 3 + 1]! - p[b * 3 + 1]!) ** 2 + (p[a * 3 + 2]! - p[b * 3 + 2]!) ** 2

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
      const middles = middlesOf(piece, edge * edge)
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
  const partOfTriangle = fine.parents.map(t => parts.partOfTriangle[t]!)
  const { indices } = fine.mesh
  for (let i = 0; i < indices.length; i++) partOfVertex[indices[i]!] = partOfTriangle[(i / 3) | 0]!
  const patchOfTriangle = fine.parents.map(t => parts.patchOfTriangle[t]!)
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
  }
}

/** Middles of the edges whose squared length is above a limit, each once. */
function middlesOf({ columns, count, triangles }: Piece, limit: number): Middles {
  const byEdge = new Map<number, number>()
  const ends: number[] = []
  const p = columns[0]!
  let more = 0
  for (let t = 0; t < triangles.length; t += 3) {
    for (let k = 0; k < 3; k++) {
      const a = triangles[t + k]!
      const b = triangles[t + ((k + 1) % 3)]!
      if (squared(a, b, p) <= limit) continue
      more++
      const id = edgeOf(a, b)
      if (byEdge.has(id)) continue
      byEdge.set(id, count + ends.length / 2)
      ends.push(Math.min(a, b), Math.max(a, b))
    }
  }
  return { byEdge, ends, more }
}

/** Splits the triangles of a piece at the middles of its edges: each becomes two, three or four where it has some. */
function split(piece: Piece, { byEdge, ends, more }: Middles, columns: readonly Column[]): void {
  piece.columns = piece.columns.map((values, c) => between(values, columns[c]!.size, ends, piece.count, c === 1))
  piece.count += ends.length / 2
  const { triangles, parents } = piece
  const next = new Uint32Array(triangles.length + more * 3)
  const from = new Uint32Array(next.length / 3)
  const p = piece.columns[0]!
  const middle = [-1, -1, -1]
  let out = 0
  let parent = 0
  const put = (a: number, b: number, c: number): void => {
    from[out / 3] = parent
    next[out++] = a
    next[out++] = b
    next[out++] = c
  }
  for (let t = 0; t < triangles.length; t += 3) {
    const corner = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!] as const
    for (let k = 0; k < 3; k++) middle[k] = byEdge.get(edgeOf(corner[k]!, corner[(k + 1) % 3]!)) ?? -1
    parent = parents[t / 3]!
    splitTriangle(corner, middle, p, put)
  }
  piece.triangles = next.slice(0, out)
  piece.parents = from.slice(0, out / 3)
}

/**
 * One triangle at the middles of its edges.
 * @param middle the new vertex on the edge from each corner to the next; -1 where there is none
 * @param p positions, with the middles among them: of the two ways to cut a rest, the shorter one is taken
 */
function splitTriangle(
  corner: readonly [number, number, number],
  middle: readonly number[],
  p: Float32Array,
  put: (a: number, b: number, c: number) => void,
): void {
  const marks = middle.filter(m => m >= 0).length
  if (marks === 0) return put(...corner)
  if (marks === 3) {
    put(corner[0], middle[0]!, middle[2]!)
    put(middle[0]!, corner[1], middle[1]!)
    put(middle[2]!, middle[1]!, corner[2])
    return put(middle[0]!, middle[1]!, middle[2]!)
  }
  // Turned so that the first edge has a middle; of two, the third edge has none.
  const k = marks === 1 ? middle.findIndex(m => m >= 0) : (middle.findIndex(m => m < 0) + 1) % 3
  const x = corner[k]!
  const y = corner[(k + 1) % 3]!
  const z = corner[(k + 2) % 3]!
  const m = middle[k]!
  if (marks === 1) {
    put(x, m, z)
    return put(m, y, z)
  }
  const n = middle[(k + 1) % 3]!
  put(m, y, n)
  if (squared(m, z, p) <= squared(x, n, p)) {
    put(x, m, z)
    put(m, n, z)
  } else {
    put(x, m, n)
    put(x, n, z)
  }
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
function between(values: Float32Array, size: number, ends: number[], count: number, unit: boolean): Float32Array {
  const all = new Float32Array((count + ends.length / 2) * size)
  all.set(values)
  for (let i = 0, at = count * size; i < ends.length; i += 2, at += size) {
    for (let k = 0; k < size; k++) all[at + k] = (values[ends[i]! * size + k]! + values[ends[i + 1]! * size + k]!) / 2
    if (!unit) continue
    const length = Math.hypot(all[at]!, all[at + 1]!, all[at + 2]!)
    if (length > 1e-6) for (let k = 0; k < 3; k++) all[at + k]! /= length
    else all.copyWithin(at, ends[i]! * 3, ends[i]! * 3 + 3)
  }
  return all
}
