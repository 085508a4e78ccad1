import { RowNumbers } from '../mesh/growing'
import type { Mesh } from '../mesh/mesh'

/**
 * Finds tangents as the MikkTSpace algorithm does, of corners laid end to end: positions and normals by three, UVs by
 * two. Four numbers each, as glTF's `TANGENT`.
 */
export type TangentMaker = (positions: Float32Array, normals: Float32Array, uvs: Float32Array) => Float32Array

/** Tangents of every corner of every triangle of a mesh with UVs, four numbers each. */
export function cornerTangents(mesh: Mesh, make: TangentMaker): Float32Array {
  const { indices } = mesh
  const corners = (values: Float32Array, size: number) => {
    const out = new Float32Array(indices.length * size)
    for (let i = 0; i < indices.length; i++)
      for (let k = 0; k < size; k++) out[i * size + k] = values[indices[i]! * size + k]!
    return out
  }
  // glTF's v runs down, the algorithm's up.
  const uvs = corners(mesh.uvs!, 2)
  for (let i = 1; i < uvs.length; i += 2) uvs[i] = 1 - uvs[i]!
  const tangents = make(corners(mesh.positions, 3), corners(mesh.normals, 3), uvs)
  return tangents
}

/**
 * Weights of a point in the triangle that it lies in.
 * @param t the triangle; `p` any place in its plane
 * @returns the weights of the second and the third corner
 */
function weights({ positions, indices }: Mesh, t: number, p: ArrayLike<number>, at: number): [number, number] {
  const a = indices[t * 3]! * 3
  const b = indices[t * 3 + 1]! * 3
  const c = indices[t * 3 + 2]! * 3
  let uu = 0
  let uv = 0
  let vv = 0
  let pu = 0
  let pv = 0
  for (let k = 0; k < 3; k++) {
    const o = positions[a + k]!
    const u = positions[b + k]! - o
    const v = positions[c + k]! - o
    const d = p[at + k]! - o
    uu += u * u
    uv += u * v
    vv += v * v
    pu += d * u
    pv += d * v
  }
  const det = uu * vv - uv * uv || 1
  return [(vv * pu - uv * pv) / det, (uu * pv - uv * pu) / det]
}

/**
 * Where the corners of a refined mesh's triangles lie in the triangles they come from: the weights of the second and
 * third corner, six numbers a triangle.
 */
export function cornerWeights(coarse: Mesh, fine: Mesh, parents: Uint32Array): Float32Array {
  const out = new Float32Array(fine.indices.length * 2)
  for (let i = 0; i < fine.indices.length; i++)
    out.set(weights(coarse, parents[(i / 3) | 0]!, fine.positions, fine.indices[i]! * 3), i * 2)
  return out
}

/**
 * Tangents of a refined mesh's corners: those of the mesh it comes from, which is the one that is delivered, in
 * between.
 */
export function refinedTangents(coarse: Mesh, tangents: Float32Array, fine: Mesh, parents: Uint32Array): Float32Array {
  const at = cornerWeights(coarse, fine, parents)
  const out = new Float32Array(fine.indices.length * 4)
  for (let i = 0; i < fine.indices.length; i++) {
    const from = parents[(i / 3) | 0]! * 12
    const u = at[i * 2]!
    const v = at[i * 2 + 1]!
    for (let k = 0; k < 4; k++)
      out[i * 4 + k] =
        k === 3
          ? tangents[from + 3]!
          : tangents[from + k]! * (1 - u - v) + tangents[from + 4 + k]! * u + tangents[from + 8 + k]! * v
  }
  return out
}

/** As whole numbers, by which what is alike is told; what is no number is as if there were none. */
const thousandths = (x: number): number => Math.round(x * 1000) | 0

/**
 * A mesh whose vertices are split where the tangents of their corners differ, with a tangent for each vertex: what
 * glTF's `TANGENT` needs. The old vertices of each object come first, so that values per vertex can be carried over.
 * @returns `from`: the old vertex of each
 */
export function withTangents(
  mesh: Mesh,
  corners: Float32Array,
): { mesh: Mesh; tangents: Float32Array; from: Uint32Array } {
  const indices = mesh.indices.slice()
  const objects = mesh.objects.map(o => ({ ...o }))
  const from: number[] = []
  const tangents: number[] = []
  for (const object of objects) {
    const { firstVertex, firstTriangle } = object
    const begin = from.length
    const known = new RowNumbers()
    const made: number[] = []
    const settled = new Uint8Array(object.vertices)
    for (let v = 0; v < object.vertices; v++) {
      from.push(firstVertex + v)
      tangents.push(1, 0, 0, 1)
    }
    for (let i = firstTriangle * 3; i < (firstTriangle + object.triangles) * 3; i++) {
      const old = mesh.indices[i]!
      const own = old - firstVertex
      const [x, y, z, w] = [corners[i * 4]!, corners[i * 4 + 1]!, corners[i * 4 + 2]!, corners[i * 4 + 3]!]
      const row = known.of(own, thousandths(x), thousandths(y), 3 * thousandths(z) + (w < 0 ? -1 : 1))
      if (row === made.length) {
        const to = settled[own] ? from.push(old) - 1 : begin + own
        settled[own] = 1
        made.push(to)
        const length = Math.hypot(x, y, z)
        const [tx, ty, tz] = length > 0 ? [x / length, y / length, z / length] : square(mesh.normals, old)
        tangents[to * 4] = tx
        tangents[to * 4 + 1] = ty
        tangents[to * 4 + 2] = tz
        tangents[to * 4 + 3] = length > 0 && w < 0 ? -1 : 1
      }
      indices[i] = made[row]!
    }
    object.firstVertex = begin
    object.vertices = from.length - begin
  }
  const vertices = Uint32Array.from(from)
  return {
    mesh: { ...mesh, ...carried(mesh, vertices), indices, objects },
    tangents: Float32Array.from(tangents),
    from: vertices,
  }
}

/** A direction at right angles to a vertex's normal: for a corner whose UVs have no direction. */
function square(normals: Float32Array, v: number): [number, number, number] {
  const [x, y, z] = [normals[v * 3]!, normals[v * 3 + 1]!, normals[v * 3 + 2]!]
  const [a, b, c] = Math.abs(x) < 0.7 ? [0, z, -y] : [-z, 0, x]
  const length = Math.hypot(a!, b!, c!) || 1
  return [a! / length, b! / length, c! / length]
}

/** Values per vertex, for vertices that each come from an old one. */
export function taken(values: Float32Array, size: number, from: Uint32Array): Float32Array {
  const out = new Float32Array(from.length * size)
  for (let v = 0; v < from.length; v++) for (let k = 0; k < size; k++) out[v * size + k] = values[from[v]! * size + k]!
  return out
}
const carried = (mesh: Mesh, from: Uint32Array): Pick<Mesh, 'positions' | 'normals' | 'uvs' | 'maps'> => ({
  positions: taken(mesh.positions, 3, from),
  normals: taken(mesh.normals, 3, from),
  ...(mesh.uvs && { uvs: taken(mesh.uvs, 2, from) }),
  maps: mesh.maps.map(m => ({ ...m, values: taken(m.values, m.components, from) })),
})
