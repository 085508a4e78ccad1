import { WebIO, type Accessor, type Document, type Node, type Primitive } from '@gltf-transform/core'
import { triangleCross, type Mesh, type MeshMaterial, type MeshObject } from '../mesh/mesh'

/** A file that cannot be read. The message is one sentence for the artist: what is wrong, and where. */
export class MeshFileError extends Error {}

export interface ReadLimits { bytes: number, triangles: number }
export const READ_LIMITS: ReadLimits = { bytes: 512 * 2 ** 20, triangles: 5_000_000 }

const fail = (message: string): never => { throw new MeshFileError(message) }
const MODE_TRIANGLES = 4, MODE_STRIP = 5, MODE_FAN = 6

/**
 * Reads a binary glTF 2.0 file: every mesh node of its default scene, transformed to world space, with normals, first
 * UV set, material names, `COLOR_0` and custom attributes (`_name`, kept as `name`). An instanced mesh becomes one
 * object per node. Missing normals are made flat, as the standard asks.
 * @throws MeshFileError for anything that is not a readable mesh
 */
export async function readGlb(bytes: Uint8Array, limits = READ_LIMITS): Promise<Mesh> {
  checkContainer(bytes, limits)
  let document: Document
  try {
    document = await new WebIO().readBinary(bytes)
  }
  catch (error) {
    const reason = error instanceof Error ? error.message.split('\n')[0]!.replace(/\.+$/, '') : String(error)
    return fail(/extension/i.test(reason)
      ? `The file needs a glTF extension that Ubblet does not read (${reason}).`
      : `The glTF data inside the file is damaged (${reason}).`)
  }
  return collect(document, limits)
}

/** GLB container, glTF 2.0 specification, section 4.4: magic, version, length, then a JSON chunk. */
function checkContainer(bytes: Uint8Array, limits: ReadLimits): void {
  const mib = (n: number) => `${Math.round(n / 2 ** 20)} MB`
  if (bytes.length === 0) fail('The file is empty.')
  if (bytes.length > limits.bytes) fail(`The file has ${mib(bytes.length)}; the limit is ${mib(limits.bytes)}.`)
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < 20 || view.getUint32(0, true) !== 0x46546c67) fail('This is not a GLB file: it does not begin with the letters "glTF".')
  if (view.getUint32(4, true) !== 2) fail(`This GLB has version ${view.getUint32(4, true)}; Ubblet reads version 2.`)
  const length = view.getUint32(8, true), json = view.getUint32(12, true)
  if (length > bytes.length) fail(`The file is cut off: it should have ${length} bytes and has ${bytes.length}.`)
  if (view.getUint32(16, true) !== 0x4e4f534a || 20 + json > length) fail('The GLB container is damaged: its first chunk is not readable JSON.')
  try {
    JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + json)))
  }
  catch {
    fail('The GLB container is damaged: its first chunk is not readable JSON.')
  }
}

declare class TextDecoder { decode(bytes: Uint8Array): string }

/** An accessor's numbers as floats, normalized integers turned into -1..1 or 0..1. */
function floats(accessor: Accessor): Float32Array {
  const array = accessor.getArray()!
  if (array instanceof Float32Array) return array
  const scale = accessor.getNormalized()
    ? array instanceof Uint8Array ? 255 : array instanceof Int8Array ? 127 : array instanceof Uint16Array ? 65535 : array instanceof Int16Array ? 32767 : 1
    : 1
  return Float32Array.from(array as ArrayLike<number>, x => Math.max(x / scale, scale === 1 ? -Infinity : -1))
}

/** Triangle list of a primitive, whatever its drawing mode; null for points and lines. */
function triangleList(primitive: Primitive, vertices: number): Uint32Array | null {
  const mode = primitive.getMode(), source = primitive.getIndices()?.getArray()
  const at = (i: number) => source ? source[i]! : i
  const count = source ? source.length : vertices
  if (mode === MODE_TRIANGLES) {
    const whole = count - count % 3
    return source ? Uint32Array.from(source.subarray(0, whole)) : Uint32Array.from({ length: whole }, (_, i) => i)
  }
  if (mode !== MODE_STRIP && mode !== MODE_FAN) return null
  const list = new Uint32Array(Math.max(0, count - 2) * 3)
  for (let i = 0; i < count - 2; i++) {
    const [a, b, c] = mode === MODE_FAN ? [0, i + 1, i + 2] : i % 2 ? [i + 1, i, i + 2] : [i, i + 1, i + 2]
    list.set([at(a!), at(b!), at(c!)], i * 3)
  }
  return list
}

interface Piece {
  node: Node
  object: number
  /** Names of materials, each for a run of corners. */
  runs: { material: string, corners: number }[]
  positions: Float32Array
  normals?: Float32Array
  uvs?: Float32Array
  triangles: Uint32Array
  maps: Map<string, { components: number, values: Float32Array }>
}

function collect(document: Document, limits: ReadLimits): Mesh {
  const root = document.getRoot(), warnings: string[] = []
  const scene = root.getDefaultScene() ?? root.listScenes()[0]
  const nodes: Node[] = []
  if (scene) scene.traverse(n => nodes.push(n))
  else nodes.push(...root.listNodes())
  const pieces: Piece[] = [], names: string[] = []
  let triangles = 0, skipped = 0

  for (const node of nodes) {
    const mesh = node.getMesh()
    if (!mesh) continue
    const name = node.getName() || mesh.getName() || `Object ${names.length + 1}`
    const object = names.length
    const before = pieces.length
    // Primitives that share their vertices (one for each material, say) become one piece, so that nothing is doubled.
    const byVertices = new Map<string, { list: Accessor[], piece: Piece }[]>()
    for (const primitive of mesh.listPrimitives()) {
      const list = primitive.listAttributes(), semantics = primitive.listSemantics().join()
      const twin = byVertices.get(semantics)?.find(t => t.list.every((a, i) => a === list[i]))?.piece
      const piece = readPrimitive(primitive, node, name, object)
      if (!piece) {
        skipped++
        continue
      }
      triangles += piece.triangles.length / 3
      if (triangles > limits.triangles) fail(`The file has more than ${limits.triangles.toLocaleString('en-US')} triangles, which is the limit.`)
      if (twin) {
        twin.triangles = concat(twin.triangles, piece.triangles)
        twin.runs.push(...piece.runs)
        continue
      }
      byVertices.set(semantics, [...byVertices.get(semantics) ?? [], { list, piece }])
      if (piece.triangles.length) pieces.push(piece)
    }
    if (pieces.length > before) names.push(name)
  }
  if (!triangles) fail('The file has no triangles.')
  if (skipped) warnings.push(`${skipped} ${skipped === 1 ? 'piece is' : 'pieces are'} made of points or lines and left out.`)
  return join(pieces, names, warnings)
}

const concat = (a: Uint32Array, b: Uint32Array): Uint32Array => {
  const both = new Uint32Array(a.length + b.length)
  both.set(a)
  both.set(b, a.length)
  return both
}

function readPrimitive(primitive: Primitive, node: Node, name: string, object: number): Piece | null {
  const position = primitive.getAttribute('POSITION')
  if (!position?.getArray()) return null
  const positions = floats(position)
  if (position.getElementSize() !== 3) fail(`The positions of "${name}" do not have three numbers each.`)
  for (let i = 0; i < positions.length; i++) {
    if (!Number.isFinite(positions[i]!)) fail(`Vertex ${Math.floor(i / 3)} of "${name}" has a position that is not a number.`)
  }
  const count = positions.length / 3, list = triangleList(primitive, count)
  if (!list) return null
  for (const v of list) if (v >= count) fail(`A triangle of "${name}" names vertex ${v}, but there are only ${count} vertices.`)

  const maps: Piece['maps'] = new Map()
  const attribute = (semantic: string, size: number) => {
    const a = primitive.getAttribute(semantic)
    if (!a?.getArray()) return undefined
    if (a.getElementSize() !== size || a.getCount() !== count) fail(`${semantic} of "${name}" does not match its positions.`)
    return floats(a)
  }
  for (const semantic of primitive.listSemantics()) {
    if (semantic !== 'COLOR_0' && !semantic.startsWith('_')) continue
    const a = primitive.getAttribute(semantic)!
    if (a.getCount() !== count || a.getElementSize() > 4) continue
    maps.set(semantic.replace(/^_/, ''), { components: a.getElementSize(), values: floats(a) })
  }
  return {
    node, object, runs: [{ material: primitive.getMaterial()?.getName() ?? '', corners: list.length }], positions, normals: attribute('NORMAL', 3),
    uvs: attribute('TEXCOORD_0', 2), triangles: list, maps,
  }
}

/** Gives every triangle its own three vertices and its own normal. */
function flatten(piece: Piece): Piece {
  const { triangles } = piece, corners = triangles.length
  const pick = (values: Float32Array, size: number) => {
    const out = new Float32Array(corners * size)
    for (let i = 0; i < corners; i++) for (let k = 0; k < size; k++) out[i * size + k] = values[triangles[i]! * size + k]!
    return out
  }
  const positions = pick(piece.positions, 3), list = Uint32Array.from({ length: corners }, (_, i) => i)
  const normals = new Float32Array(corners * 3), cross: [number, number, number] = [0, 0, 0]
  for (let t = 0; t < corners / 3; t++) {
    triangleCross({ positions, indices: list }, t, cross)
    for (let c = 0; c < 3; c++) normals.set(cross, (t * 3 + c) * 3)
  }
  const maps: Piece['maps'] = new Map([...piece.maps].map(([name, m]) => [name, { ...m, values: pick(m.values, m.components) }]))
  return { ...piece, positions, normals, uvs: piece.uvs && pick(piece.uvs, 2), triangles: list, maps }
}

/** Lays the pieces end to end, in world space. */
function join(raw: Piece[], names: string[], warnings: string[]): Mesh {
  const pieces = raw.map(p => p.normals ? p : flatten(p))
  const vertices = pieces.reduce((n, p) => n + p.positions.length / 3, 0)
  const corners = pieces.reduce((n, p) => n + p.triangles.length, 0)
  const withUvs = pieces.filter(p => p.uvs).length
  if (!withUvs) warnings.push('There are no UVs, so no textures can be made; vertex colors still work.')
  else if (withUvs < pieces.length) warnings.push(`${pieces.length - withUvs} of ${pieces.length} pieces have no UVs, so no textures can be made; vertex colors still work.`)
  const mesh: Mesh = {
    positions: new Float32Array(vertices * 3), normals: new Float32Array(vertices * 3), indices: new Uint32Array(corners),
    ...(withUvs === pieces.length && { uvs: new Float32Array(vertices * 2) }),
    objects: names.map((name): MeshObject => ({ name, firstTriangle: 0, triangles: 0, firstVertex: 0, vertices: 0 })),
    materials: [], maps: [], warnings,
  }
  const components = new Map<string, number>(), carriers = new Map<string, number>()
  for (const p of pieces) {
    for (const [name, m] of p.maps) {
      components.set(name, Math.max(components.get(name) ?? 0, m.components))
      carriers.set(name, (carriers.get(name) ?? 0) + 1)
    }
  }
  for (const [name, n] of components) {
    mesh.maps.push({ name, components: n, values: new Float32Array(vertices * n) })
    if (carriers.get(name)! < pieces.length) warnings.push(`The vertex map "${name}" is missing on ${pieces.length - carriers.get(name)!} of ${pieces.length} pieces and counts as 0 there.`)
  }
  let firstVertex = 0, firstCorner = 0
  for (const p of pieces) {
    const count = p.positions.length / 3, m = p.node.getWorldMatrix()
    if (!m.every(Number.isFinite)) fail(`The transform of "${names[p.object]}" is not a number somewhere.`)
    placePiece(mesh, p, m, firstVertex, firstCorner)
    for (const map of mesh.maps) {
      const own = p.maps.get(map.name)
      if (!own) continue
      for (let v = 0; v < count; v++) {
        for (let k = 0; k < map.components; k++) {
          map.values[(firstVertex + v) * map.components + k] = k < own.components ? own.values[v * own.components + k]! : 1
        }
      }
    }
    const object = mesh.objects[p.object]!
    if (!object.triangles) Object.assign(object, { firstTriangle: firstCorner / 3, firstVertex })
    object.triangles += p.triangles.length / 3
    object.vertices += count
    let corner = firstCorner
    for (const run of p.runs) {
      mesh.materials.push({ name: run.material, firstTriangle: corner / 3, triangles: run.corners / 3 } satisfies MeshMaterial)
      corner += run.corners
    }
    firstVertex += count
    firstCorner += p.triangles.length
  }
  return mesh
}

/** Transforms a piece into place: normals by the cofactor matrix, winding turned where the transform mirrors. */
function placePiece(mesh: Mesh, p: Piece, m: readonly number[], firstVertex: number, firstCorner: number): void {
  const [a, b, c, , d, e, f, , g, h, i] = m as [number, number, number, number, number, number, number, number, number, number, number]
  const cofactor = [e * i - f * h, f * g - d * i, d * h - e * g, c * h - b * i, a * i - c * g, b * g - a * h, b * f - c * e, c * d - a * f, a * e - b * d]
  const mirrored = a * cofactor[0]! + b * cofactor[1]! + c * cofactor[2]! < 0
  const count = p.positions.length / 3, sign = mirrored ? -1 : 1
  for (let v = 0; v < count; v++) {
    const x = p.positions[v * 3]!, y = p.positions[v * 3 + 1]!, z = p.positions[v * 3 + 2]!
    const nx = p.normals![v * 3]!, ny = p.normals![v * 3 + 1]!, nz = p.normals![v * 3 + 2]!
    const at = (firstVertex + v) * 3
    let length = 0
    for (let k = 0; k < 3; k++) {
      mesh.positions[at + k] = m[k]! * x + m[4 + k]! * y + m[8 + k]! * z + m[12 + k]!
      const n = sign * (cofactor[k]! * nx + cofactor[3 + k]! * ny + cofactor[6 + k]! * nz)
      mesh.normals[at + k] = n
      length += n * n
    }
    length = Math.sqrt(length)
    if (length > 0 && Number.isFinite(length)) for (let k = 0; k < 3; k++) mesh.normals[at + k]! /= length
    else mesh.normals.set([0, 1, 0], at)
  }
  if (mesh.uvs && p.uvs) mesh.uvs.set(p.uvs, firstVertex * 2)
  for (let t = 0; t < p.triangles.length; t += 3) {
    mesh.indices[firstCorner + t] = p.triangles[t]! + firstVertex
    mesh.indices[firstCorner + t + 1] = p.triangles[t + (mirrored ? 2 : 1)]! + firstVertex
    mesh.indices[firstCorner + t + 2] = p.triangles[t + (mirrored ? 1 : 2)]! + firstVertex
  }
}
