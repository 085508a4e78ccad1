import type { Mesh } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'

/** No analysis mesh has more triangles than this, unless the file itself has. */
export const MOST_TRIANGLES = 4_000_000

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
  const limit = edge * edge
  const columns = [
    { values: mesh.positions, size: 3 },
    { values: mesh.normals, size: 3 },
    ...(mesh.uvs ? [{ values: mesh.uvs, size: 2 }] : []),
    ...mesh.maps.map(m => ({ values: m.values, size: m.components })),
  ]
  const longest = (a: number, b: number, p: Float32Array) =>
    (p[a * 3]! - p[b * 3]!) ** 2 + (p[a * 3 + 1]! - p[b * 3 + 1]!) ** 2 + (p[a * 3 + 2]! - p[b * 3 + 2]!) ** 2
  const objects = mesh.objects.map(o => ({ ...o }))
  const finished: { columns: Float32Array[]; triangles: Uint32Array; parents: Uint32Array }[] = []
  let total = mesh.indices.length / 3
  let complete = true
  for (const object of objects) {
    const { firstTriangle, firstVertex } = object
    let count = object.vertices
    let own: Float32Array[] = columns.map(c => c.values.slice(firstVertex * c.size, (firstVertex + count) * c.size))
    let triangles = mesh.indices.slice(firstTriangle * 3, (firstTriangle + object.triangles) * 3)
    for (let i = 0; i < triangles.length; i++) triangles[i]! -= firstVertex
    let parents = Uint32Array.from({ length: object.triangles }, (_, i) => firstTriangle + i)
    for (let pass = 0; pass < 16; pass++) {
      // (1) Middles of the edges that are too long, each once.
      const middles = new Map<number, number>()
      const ends: number[] = []
      const p = own[0]!
      let more = 0
      for (let t = 0; t < triangles.length; t += 3) {
        for (let k = 0; k < 3; k++) {
          const a = triangles[t + k]!
          const b = triangles[t + ((k + 1) % 3)]!
          if (longest(a, b, p) <= limit) continue
          more++
          const id = a < b ? a * 2 ** 26 + b : b * 2 ** 26 + a
          if (middles.has(id)) continue
          middles.set(id, count + ends.length / 2)
          ends.push(Math.min(a, b), Math.max(a, b))
        }
      }
      if (!more) break
      if (total + more > most || count + ends.length / 2 >= 2 ** 26) {
        complete = false
        break
      }
      own = own.map((values, c) => between(values, columns[c]!.size, ends, count, c === 1))
      count += ends.length / 2
      // (2) Two, three or four triangles for each that has a middle.
      const next = new Uint32Array(triangles.length + more * 3)
      const from = new Uint32Array(next.length / 3)
      const q = own[0]!
      let out = 0
      for (let t = 0; t < triangles.length; t += 3) {
        const corner = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!] as const
        const mid = [0, 1, 2].map(k => {
          const a = corner[k]!
          const b = corner[(k + 1) % 3]!
          return middles.get(a < b ? a * 2 ** 26 + b : b * 2 ** 26 + a) ?? -1
        })
        const put = (a: number, b: number, c: number) => {
          from[out / 3] = parents[t / 3]!
          next[out++] = a
          next[out++] = b
          next[out++] = c
        }
        const marks = mid.filter(m => m >= 0).length
        const [a, b, c] = corner
        if (marks === 0) put(a, b, c)
        else if (marks === 3) {
          put(a, mid[0]!, mid[2]!)
          put(mid[0]!, b, mid[1]!)
          put(mid[2]!, mid[1]!, c)
          put(mid[0]!, mid[1]!, mid[2]!)
        } else {
          // Turned so that the first edge has a middle; of two, the third edge has none.
          const k = marks === 1 ? mid.findIndex(m => m >= 0) : (mid.findIndex(m => m < 0) + 1) % 3
          const x = corner[k]!
          const y = corner[(k + 1) % 3]!
          const z = corner[(k + 2) % 3]!
          const m = mid[k]!
          if (marks === 1) {
            put(x, m, z)
            put(m, y, z)
          } else {
            const n = mid[(k + 1) % 3]!
            put(m, y, n)
            if (longest(m, z, q) <= longest(x, n, q)) {
              put(x, m, z)
              put(m, n, z)
            } else {
              put(x, m, n)
              put(x, n, z)
            }
          }
        }
      }
      triangles = next.slice(0, out)
      parents = from.slice(0, out / 3)
      total += more
    }
    finished.push({ columns: own, triangles, parents })
    object.vertices = count
    object.triangles = triangles.length / 3
  }
  // (3) End to end again.
  let vertex = 0
  let triangle = 0
  for (const o of objects) {
    o.firstVertex = vertex
    o.firstTriangle = triangle
    vertex += o.vertices
    triangle += o.triangles
  }
  const indices = new Uint32Array(triangle * 3)
  const parents = new Uint32Array(triangle)
  finished.forEach((f, i) => {
    const { firstTriangle, firstVertex } = objects[i]!
    for (let k = 0; k < f.triangles.length; k++) indices[firstTriangle * 3 + k] = f.triangles[k]! + firstVertex
    parents.set(f.parents, firstTriangle)
  })
  const joined = columns.map((c, k) => {
    const all = new Float32Array(vertex * c.size)
    finished.forEach((f, i) => all.set(f.columns[k]!, objects[i]!.firstVertex * c.size))
    return all
  })
  const starts = new Uint32Array(mesh.indices.length / 3 + 1)
  for (const parent of parents) starts[parent + 1]!++
  for (let i = 1; i < starts.length; i++) starts[i]! += starts[i - 1]!
  const maps = mesh.maps.map((m, i) => ({ ...m, values: joined[(mesh.uvs ? 3 : 2) + i]! }))
  const fine: Mesh = {
    ...mesh,
    positions: joined[0]!,
    normals: joined[1]!,
    ...(mesh.uvs && { uvs: joined[2]! }),
    indices,
    objects,
    maps,
    materials: mesh.materials.map(m => ({
      ...m,
      firstTriangle: starts[m.firstTriangle]!,
      triangles: starts[m.firstTriangle + m.triangles]! - starts[m.firstTriangle]!,
    })),
  }
  const partOfVertex = new Uint32Array(vertex)
  const partOfTriangle = parents.map(t => parts.partOfTriangle[t]!)
  for (let i = 0; i < indices.length; i++) partOfVertex[indices[i]!] = partOfTriangle[(i / 3) | 0]!
  return {
    mesh: fine,
    parts: { ...parts, partOfTriangle, partOfVertex, patchOfTriangle: parents.map(t => parts.patchOfTriangle[t]!) },
    complete,
    parents,
  }
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
