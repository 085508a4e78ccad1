import { DataTexture, FloatType, NearestFilter, RGBAFormat, RGBAIntegerFormat, UnsignedIntType } from 'three'
import type { MeshTables } from '#core/evaluate/tables'

/** Texels in a row of the textures that hold lists. */
export const LIST_WIDTH = 2048

/** Where an entry of a list is in its texture. */
export const LIST_CELL = `ivec2 ubCell(int i) { return ivec2(i % ${LIST_WIDTH}, i / ${LIST_WIDTH}); }`

/** Numbers as a texture, four to a texel, row by row. */
export function listTexture(data: Float32Array, texels: number): DataTexture {
  const height = Math.max(1, Math.ceil(texels / LIST_WIDTH))
  const padded = new Float32Array(height * LIST_WIDTH * 4)
  padded.set(data)
  return finished(new DataTexture(padded, LIST_WIDTH, height, RGBAFormat, FloatType))
}

function finished(texture: DataTexture): DataTexture {
  texture.minFilter = texture.magFilter = NearestFilter
  texture.needsUpdate = true
  return texture
}

/** Triangles as a texture: three vertices and the part, each a 32-bit word. */
export function triangleTexture({ mesh, parts }: MeshTables): DataTexture {
  const { indices } = mesh
  const count = indices.length / 3
  const height = Math.max(1, Math.ceil(count / LIST_WIDTH))
  const data = new Uint32Array(height * LIST_WIDTH * 4)
  for (let t = 0; t < count; t++) {
    for (let k = 0; k < 3; k++) data[t * 4 + k] = indices[t * 3 + k]!
    data[t * 4 + 3] = parts.partOfTriangle[t]!
  }
  const texture = new DataTexture(data, LIST_WIDTH, height, RGBAIntegerFormat, UnsignedIntType)
  texture.internalFormat = 'RGBA32UI'
  return finished(texture)
}

/** Vertices as a texture, two texels each: position and u, normal and v. */
export function vertexTexture({ mesh: { positions, normals, uvs } }: MeshTables): DataTexture {
  const count = positions.length / 3
  const data = new Float32Array(count * 8)
  for (let v = 0; v < count; v++) {
    for (let k = 0; k < 3; k++) {
      data[v * 8 + k] = positions[v * 3 + k]!
      data[v * 8 + 4 + k] = normals[v * 3 + k]!
    }
    data[v * 8 + 3] = uvs?.[v * 2] ?? 0
    data[v * 8 + 7] = uvs?.[v * 2 + 1] ?? 0
  }
  return listTexture(data, count * 2)
}

/** The part of each vertex as a texture, a texel each. */
export function ownerTexture({ mesh, parts }: MeshTables): DataTexture {
  const count = mesh.positions.length / 3
  const data = new Float32Array(count * 4)
  for (let v = 0; v < count; v++) data[v * 4] = parts.partOfVertex[v]!
  return listTexture(data, count)
}
