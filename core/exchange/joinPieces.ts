import { cofactorsOf } from '../mesh/matrix'
import { triangleCross, type Mesh, type MeshObject } from '../mesh/mesh'
import { fail, type Found, type MeshMaterial, type Piece } from './meshFile'
import { wrongWayAround } from './turned'

/** Gives every triangle its own three vertices and its own normal. */
function flatten(piece: Piece): Piece {
  const { triangles } = piece
  const corners = triangles.length
  const pick = (values: Float32Array, size: number) => {
    const out = new Float32Array(corners * size)
    for (let i = 0; i < corners; i++)
      for (let k = 0; k < size; k++) out[i * size + k] = values[triangles[i]! * size + k]!
    return out
  }
  const positions = pick(piece.positions, 3)
  const list = Uint32Array.from({ length: corners }, (_, i) => i)
  const normals = new Float32Array(corners * 3)
  const cross: [number, number, number] = [0, 0, 0]
  for (let t = 0; t < corners / 3; t++) {
    triangleCross({ positions, indices: list }, t, cross)
    for (let c = 0; c < 3; c++) normals.set(cross, (t * 3 + c) * 3)
  }
  const maps: Piece['maps'] = new Map(
    [...piece.maps].map(([name, m]) => [name, { ...m, values: pick(m.values, m.components) }]),
  )
  return { ...piece, positions, normals, uvs: piece.uvs && pick(piece.uvs, 2), triangles: list, maps }
}

/**
 * Lays the pieces end to end, in world space. Pieces of one object must follow one another. Missing normals are made
 * flat, as glTF asks; a piece that carries fewer numbers in a map than another is filled up with 1.
 */
export function joinPieces({ pieces: raw, objects, nodes, extras, surfaces, warnings }: Found): Mesh {
  const pieces = raw.map(p => (p.normals ? p : flatten(p)))
  const vertices = pieces.reduce((n, p) => n + p.positions.length / 3, 0)
  const corners = pieces.reduce((n, p) => n + p.triangles.length, 0)
  const withUvs = pieces.filter(p => p.uvs).length
  if (!withUvs) warnings.push('There are no UVs, so no textures can be made; vertex colors still work.')
  else if (withUvs < pieces.length)
    warnings.push(
      `${pieces.length - withUvs} of ${pieces.length} pieces have no UVs, so no textures can be made; vertex colors still work.`,
    )
  const mesh: Mesh = {
    positions: new Float32Array(vertices * 3),
    normals: new Float32Array(vertices * 3),
    indices: new Uint32Array(corners),
    ...(withUvs === pieces.length && { uvs: new Float32Array(vertices * 2) }),
    objects: objects.map(({ name, parents, node, shape, extras }): MeshObject => ({
      name,
      ...(parents.length && { parents }),
      ...(node !== undefined && { node }),
      ...(shape !== undefined && { shape }),
      ...(extras && { extras }),
      firstTriangle: 0,
      triangles: 0,
      firstVertex: 0,
      vertices: 0,
    })),
    ...(nodes && { nodes }),
    ...(extras && { extras }),
    materials: [],
    maps: [],
    warnings,
    ...(surfaces.length && { surfaces }),
  }
  mesh.maps.push(...emptyMaps(pieces, vertices, warnings))
  let firstVertex = 0
  let firstCorner = 0
  let turned = 0
  for (const p of pieces) {
    const count = p.positions.length / 3
    const m = p.matrix
    const object = mesh.objects[p.object]!
    if (!m.every(Number.isFinite)) fail(`The transform of "${object.name}" is not a number somewhere.`)
    turned += placePiece(mesh, p, m, firstVertex, firstCorner)
    placeMaps(mesh, p, firstVertex)
    if (!object.triangles) Object.assign(object, { firstTriangle: firstCorner / 3, firstVertex })
    object.triangles += p.triangles.length / 3
    object.vertices += count
    let corner = firstCorner
    for (const run of p.runs) {
      mesh.materials.push({
        name: run.material,
        firstTriangle: corner / 3,
        triangles: run.corners / 3,
      } satisfies MeshMaterial)
      corner += run.corners
    }
    firstVertex += count
    firstCorner += p.triangles.length
  }
  if (turned) warnings.push(turnedInWords(turned))
  return mesh
}

const turnedInWords = (count: number): string =>
  count === 1
    ? 'One triangle ran against its own normals and was turned around.'
    : `${count.toLocaleString('en-US')} triangles ran against their own normals and were turned around.`

/** The maps that pieces carry, as wide as the widest of a name, all 0. */
function emptyMaps(pieces: readonly Piece[], vertices: number, warnings: string[]): Mesh['maps'] {
  const components = new Map<string, number>()
  const carriers = new Map<string, number>()
  for (const p of pieces) {
    for (const [name, m] of p.maps) {
      components.set(name, Math.max(components.get(name) ?? 0, m.components))
      carriers.set(name, (carriers.get(name) ?? 0) + 1)
    }
  }
  return [...components].map(([name, n]) => {
    const missing = pieces.length - carriers.get(name)!
    if (missing)
      warnings.push(
        `The vertex map "${name}" is missing on ${missing} of ${pieces.length} pieces and counts as 0 there.`,
      )
    return { name, components: n, values: new Float32Array(vertices * n) }
  })
}

function placeMaps(mesh: Mesh, p: Piece, firstVertex: number): void {
  const count = p.positions.length / 3
  for (const map of mesh.maps) {
    const own = p.maps.get(map.name)
    if (!own) continue
    for (let v = 0; v < count; v++) {
      for (let k = 0; k < map.components; k++) {
        map.values[(firstVertex + v) * map.components + k] =
          k < own.components ? own.values[v * own.components + k]! : 1
      }
    }
  }
}

/**
 * Transforms a piece into place: normals by the cofactor matrix, winding turned where the transform mirrors, and where
 * it runs against the normals.
 * @returns how many triangles ran against them
 */
function placePiece(mesh: Mesh, p: Piece, m: readonly number[], firstVertex: number, firstCorner: number): number {
  const { cofactors, mirrored } = cofactorsOf(m)
  const count = p.positions.length / 3
  const sign = mirrored ? -1 : 1
  for (let v = 0; v < count; v++) {
    const x = p.positions[v * 3]!
    const y = p.positions[v * 3 + 1]!
    const z = p.positions[v * 3 + 2]!
    const nx = p.normals![v * 3]!
    const ny = p.normals![v * 3 + 1]!
    const nz = p.normals![v * 3 + 2]!
    const at = (firstVertex + v) * 3
    let length = 0
    for (let k = 0; k < 3; k++) {
      mesh.positions[at + k] = m[k]! * x + m[4 + k]! * y + m[8 + k]! * z + m[12 + k]!
      const n = sign * (cofactors[k]! * nx + cofactors[3 + k]! * ny + cofactors[6 + k]! * nz)
      mesh.normals[at + k] = n
      length += n * n
    }
    length = Math.sqrt(length)
    if (length > 0 && Number.isFinite(length)) for (let k = 0; k < 3; k++) mesh.normals[at + k]! /= length
    else mesh.normals.set([0, 1, 0], at)
  }
  if (mesh.uvs && p.uvs) mesh.uvs.set(p.uvs, firstVertex * 2)
  const wrong = wrongWayAround(p)
  for (let t = 0; t < p.triangles.length; t += 3) {
    const second = mirrored === (wrong?.[t / 3] === 1) ? 1 : 2
    mesh.indices[firstCorner + t] = p.triangles[t]! + firstVertex
    mesh.indices[firstCorner + t + 1] = p.triangles[t + second]! + firstVertex
    mesh.indices[firstCorner + t + 2] = p.triangles[t + 3 - second]! + firstVertex
  }
  return wrong?.reduce((n, w) => n + w, 0) ?? 0
}
