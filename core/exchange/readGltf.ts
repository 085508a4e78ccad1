import {
  WebIO,
  type Accessor,
  type Document,
  type GLTF,
  type Material,
  type Mesh as GltfMesh,
  type Node,
  type Primitive,
  type Texture,
  type TextureInfo,
} from '@gltf-transform/core'
import { ALL_EXTENSIONS, type EmissiveStrength, type Transform } from '@gltf-transform/extensions'
import { MeshoptDecoder } from 'meshoptimizer'
import {
  checkIndices,
  checkPositions,
  checkTriangles,
  fail,
  megabytes,
  READ_LIMITS,
  type Found,
  type Piece,
  type ReadLimits,
  type ReadOptions,
  type Surface,
} from './meshFile'
import type { Beyond, Extras, MeshNode, SurfaceUse } from '../mesh/mesh'

declare class TextDecoder {
  decode(bytes: Uint8Array): string
}
const MODE_TRIANGLES = 4
const MODE_STRIP = 5
const MODE_FAN = 6
/** Bytes up to which a picture is the one below. */
const SMALLEST_PICTURE = 70
/** A picture of one transparent pixel, for pictures that were not sent along. */
const NO_PICTURE =
  'data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR4nGNgYGBgAAAABQABh6FO1AAAAABJRU5ErkJggg=='

/**
 * Reads binary glTF 2.0: every mesh node of the default scene with its transform, first UV set, further UV sets as maps
 * of two numbers (`UV 2`, …), materials with their pictures, `COLOR_n` and custom attributes (`_name`, kept as `name`).
 * An instanced mesh becomes one object per node, a node with GPU instances one per instance. Draco and meshopt
 * compression, quantized, interleaved and sparse accessors are read.
 * @throws MeshFileError for anything that is not a readable mesh
 */
export async function readGlb(bytes: Uint8Array, options: ReadOptions = {}): Promise<Found> {
  const limits = options.limits ?? READ_LIMITS
  const json = glbJson(bytes, limits)
  const warnings: string[] = []
  checkJson(json, limits, undefined, warnings)
  const io = await reader(json, options)
  return collect(await attempt(() => io.readBinary(bytes)), json, limits, warnings)
}

/**
 * Reads glTF 2.0 whose buffers and pictures are files of their own.
 * @param resources the other files, by path as the document writes it, or by name alone
 */
export async function readGltf(
  bytes: Uint8Array,
  resources: ReadonlyMap<string, Uint8Array>,
  options: ReadOptions = {},
): Promise<Found> {
  const limits = options.limits ?? READ_LIMITS
  const json = parse(bytes, 'The file is not readable JSON, so it is no glTF document.')
  const warnings: string[] = []
  const used: Record<string, Uint8Array<ArrayBuffer>> = {}
  checkJson(
    json,
    limits,
    uri => {
      const path = decodeURIComponent(uri).replaceAll('\\', '/').replace(/^\.\//, '')
      const found = resources.get(path) ?? resources.get(path.split('/').pop()!)
      if (found) used[uri] = found as Uint8Array<ArrayBuffer>
      return Boolean(found)
    },
    warnings,
  )
  const io = await reader(json, options)
  return collect(await attempt(() => io.readJSON({ json, resources: used })), json, limits, warnings)
}

async function attempt(read: () => Promise<Document>): Promise<Document> {
  try {
    return await read()
  } catch (error) {
    const reason = error instanceof Error ? error.message.split('\n')[0]!.replace(/\.+$/, '') : String(error)
    return fail(
      /extension/i.test(reason)
        ? `The file needs a glTF extension that Ubblet does not read (${reason}).`
        : `The glTF data inside the file is damaged (${reason}).`,
    )
  }
}

async function reader(json: GLTF.IGLTF, options: ReadOptions): Promise<WebIO> {
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS)
  const used = json.extensionsUsed ?? []
  if (used.some(e => /_meshopt_compression$/.test(e))) {
    await MeshoptDecoder.ready
    io.registerDependencies({ 'meshopt.decoder': MeshoptDecoder })
  }
  if (used.includes('KHR_draco_mesh_compression')) {
    if (!options.draco) fail('The file is compressed with Draco, which cannot be read here.')
    io.registerDependencies({ 'draco3d.decoder': await options.draco!() })
  }
  return io
}

function parse(bytes: Uint8Array, otherwise: string): GLTF.IGLTF {
  let json: unknown
  try {
    json = JSON.parse(new TextDecoder().decode(bytes))
  } catch {
    fail(otherwise)
  }
  if (typeof json !== 'object' || json === null || !('asset' in json))
    fail('The JSON is not a glTF document: it has no "asset".')
  return json as GLTF.IGLTF
}

/** GLB container, glTF 2.0 specification, section 4.4: magic, version, length, then a JSON chunk. */
function glbJson(bytes: Uint8Array, limits: ReadLimits): GLTF.IGLTF {
  if (bytes.length > limits.bytes)
    fail(`The file has ${megabytes(bytes.length)}; the limit is ${megabytes(limits.bytes)}.`)
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < 20 || view.getUint32(0, true) !== 0x46546c67)
    fail('This is not a GLB file: it does not begin with the letters "glTF".')
  if (view.getUint32(4, true) !== 2) fail(`This GLB has version ${view.getUint32(4, true)}; Ubblet reads version 2.`)
  const length = view.getUint32(8, true)
  const json = view.getUint32(12, true)
  const damaged = 'The GLB container is damaged: its first chunk is not readable JSON.'
  if (length > bytes.length) fail(`The file is cut off: it should have ${length} bytes and has ${bytes.length}.`)
  if (view.getUint32(16, true) !== 0x4e4f534a || 20 + json > length) fail(damaged)
  return parse(bytes.subarray(20, 20 + json), damaged)
}

/**
 * What a library would stumble over: nodes in circles, counts beyond any limit, files that are not there.
 * @param resource whether another file is there; undefined in a GLB, which holds everything
 */
function checkJson(
  json: GLTF.IGLTF,
  limits: ReadLimits,
  resource: ((uri: string) => boolean) | undefined,
  warnings: string[],
): void {
  const nodes = list(json.nodes)
  const state = new Uint8Array(nodes.length)
  // (1) Circles, without recursion: a deep chain must not exhaust the stack either.
  for (let root = 0; root < nodes.length; root++) {
    const stack: [node: number, child: number][] = state[root] ? [] : [[root, 0]]
    state[root] ||= 1
    while (stack.length) {
      const top = stack[stack.length - 1]!
      const child = list(nodes[top[0]]?.children)[top[1]++]
      if (child === undefined) {
        state[top[0]] = 2
        stack.pop()
      } else if (!Number.isInteger(child) || child < 0 || child >= nodes.length)
        fail(`Node ${top[0]} names a child ${String(child)} that does not exist.`)
      else if (state[child] === 1) fail(`The nodes go in a circle: node ${child} is inside itself.`)
      else if (!state[child]) {
        if (stack.length > 2000) fail('The nodes are nested more than 2,000 deep.')
        state[child] = 1
        stack.push([child, 0])
      }
    }
  }
  // (2) Counts.
  list(json.accessors).forEach((a, i) => {
    if (!Number.isInteger(a?.count) || a.count < 0 || a.count > limits.triangles * 6)
      fail(`Accessor ${i} claims ${String(a?.count)} elements, which is beyond the limit.`)
  })
  const claimed = list(json.buffers).reduce((sum, b) => sum + (Number(b?.byteLength) || 0), 0)
  if (claimed > limits.bytes * 4) fail(`The buffers claim ${megabytes(claimed)}, which is beyond the limit.`)
  const unpacked = unpackedBytes(json)
  if (unpacked > limits.bytes * 4)
    fail(`Unpacked, the data of the file would take ${megabytes(unpacked)}, which is beyond the limit.`)
  checkTriangles(placedTriangles(json), limits)
  // (3) Other files.
  const missing = (uri: string | undefined) => uri !== undefined && !uri.startsWith('data:') && !resource?.(uri)
  for (const buffer of list(json.buffers))
    if (missing(buffer?.uri)) fail(`The document needs the file "${buffer.uri}", which was not brought along.`)
  for (const image of list(json.images)) {
    if (!missing(image?.uri)) continue
    warnings.push(`The picture "${image.uri}" was not brought along; its material goes on without it.`)
    image.uri = NO_PICTURE
  }
}

/** Bytes of one element of an accessor (glTF 2.0, section 3.6.2.2). */
const COMPONENT_BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 }
const COMPONENTS: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 }

/** What the accessors take, and what compressed views become, by the file's own word: before anything is unpacked. */
function unpackedBytes(json: GLTF.IGLTF): number {
  let sum = 0
  for (const a of list(json.accessors))
    sum += a.count * (COMPONENTS[a.type] ?? 16) * (COMPONENT_BYTES[a.componentType] ?? 4)
  for (const view of list(json.bufferViews)) {
    for (const [name, extension] of Object.entries(view?.extensions ?? {})) {
      const { count, byteStride } = extension as { count?: unknown; byteStride?: unknown }
      if (/_meshopt_compression$/.test(name))
        sum += Math.max(0, Number(count) || 0) * Math.max(1, Number(byteStride) || 1)
    }
  }
  return sum
}

/** Triangles of a primitive, by the counts of its accessors. */
function trianglesOf(json: GLTF.IGLTF, primitive: GLTF.IMeshPrimitive): number {
  const of = primitive?.indices ?? primitive?.attributes?.POSITION
  const count = of === undefined ? 0 : (list(json.accessors)[of]?.count ?? 0)
  const { mode = MODE_TRIANGLES } = primitive ?? {}
  return mode === MODE_STRIP || mode === MODE_FAN ? Math.max(0, count - 2) : Math.ceil(count / 3)
}

/**
 * Triangles that nodes and their instances (EXT_mesh_gpu_instancing) place, each mesh counted as often as it stands
 * somewhere.
 */
function placedTriangles(json: GLTF.IGLTF): number {
  const meshes = list(json.meshes).map(m => list(m?.primitives).reduce((sum, p) => sum + trianglesOf(json, p), 0))
  let sum = 0
  for (const node of list(json.nodes)) {
    const triangles = node?.mesh === undefined ? 0 : (meshes[node.mesh] ?? 0)
    const { attributes = {} } = (node?.extensions?.EXT_mesh_gpu_instancing ?? {}) as {
      attributes?: Record<string, number>
    }
    const counts = Object.values(attributes).map(i => list(json.accessors)[i]?.count ?? 0)
    // An instance without a triangle still is an object of its own.
    sum += counts.length ? Math.max(...counts) * Math.max(1, triangles) : triangles
  }
  return sum
}

const list = <T>(items: T[] | undefined): T[] => (Array.isArray(items) ? items : [])

/** What normalized integers are divided by. */
const NORMALIZED_BY = [
  [Uint8Array, 255],
  [Int8Array, 127],
  [Uint16Array, 65535],
  [Int16Array, 32767],
] as const

/** An accessor's numbers as floats, normalized integers turned into -1..1 or 0..1 (glTF 2.0, section 3.11). */
function floats(accessor: Accessor): Float32Array {
  const array = accessor.getArray()!
  if (array instanceof Float32Array) return array
  const largest = NORMALIZED_BY.find(([kind]) => array instanceof kind)?.[1] ?? 1
  const scale = accessor.getNormalized() ? largest : 1
  return Float32Array.from(array as ArrayLike<number>, x => Math.max(x / scale, scale === 1 ? -Infinity : -1))
}

/** Triangle list of a primitive, whatever its drawing mode; null for points and lines. */
function triangleList(primitive: Primitive, vertices: number): Uint32Array | null {
  const mode = primitive.getMode()
  const source = primitive.getIndices()?.getArray()
  const at = (i: number) => (source ? source[i]! : i)
  const count = source ? source.length : vertices
  if (mode === MODE_TRIANGLES) {
    const whole = count - (count % 3)
    return source ? new Uint32Array(source.subarray(0, whole)) : Uint32Array.from({ length: whole }, (_, i) => i)
  }
  if (mode !== MODE_STRIP && mode !== MODE_FAN) return null
  const triangles = new Uint32Array(Math.max(0, count - 2) * 3)
  for (let i = 0; i < count - 2; i++) {
    const inStrip = i % 2 ? [i + 1, i, i + 2] : [i, i + 1, i + 2]
    const [a, b, c] = mode === MODE_FAN ? [0, i + 1, i + 2] : inStrip
    triangles.set([at(a!), at(b!), at(c!)], i * 3)
  }
  return triangles
}

type Instances = { listSemantics(): string[]; getAttribute(semantic: string): Accessor | null }

/** From the space of each of a node's GPU instances to its own; none where it has none. */
function instancesOf(node: Node): (readonly number[])[] {
  const instances = node.getExtension('EXT_mesh_gpu_instancing') as unknown as Instances | null
  const first = instances && instances.getAttribute(instances.listSemantics()[0] ?? '')
  if (!instances || !first) return []
  const read = (semantic: string, fallback: number[]) => {
    const a = instances.getAttribute(semantic)
    const values = a && floats(a)
    return (i: number) =>
      values ? Array.from(values.subarray(i * fallback.length, (i + 1) * fallback.length)) : fallback
  }
  const move = read('TRANSLATION', [0, 0, 0])
  const turn = read('ROTATION', [0, 0, 0, 1])
  const scale = read('SCALE', [1, 1, 1])
  return Array.from({ length: first.getCount() }, (_, i) => {
    const [x, y, z, w] = turn(i) as [number, number, number, number]
    const s = scale(i)
    const t = move(i)
    const columns = [
      [1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w)],
      [2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)],
      [2 * (x * z + y * w), 2 * (y * z - x * w), 1 - 2 * (x * x + y * y)],
    ].map((c, k) => [...c.map(q => q * s[k]!), 0])
    return [...columns.flat(), ...t, 1]
  })
}

/** The product of two matrices, column by column. */
const product = (a: readonly number[], b: readonly number[]): number[] =>
  Array.from({ length: 16 }, (_, n) =>
    [0, 1, 2, 3].reduce((sum, k) => sum + a[k * 4 + (n % 4)]! * b[(n >> 2) * 4 + k]!, 0),
  )

/** The nodes of the scene that is read, each behind the one that it stands in. */
function sceneNodes(document: Document, warnings: string[]): Node[] {
  const root = document.getRoot()
  const scenes = root.listScenes()
  const scene = root.getDefaultScene() ?? scenes[0]
  const nodes: Node[] = []
  if (scene) scene.traverse(n => nodes.push(n))
  else
    root
      .listNodes()
      .filter(n => !n.getParentNode())
      .forEach(top => top.traverse(n => nodes.push(n)))
  if (scenes.length > 1)
    warnings.push(
      `The file has ${scenes.length} scenes; "${scene!.getName() || 'the first'}" was read, the others were not.`,
    )
  return nodes
}

/** What is read of the nodes one after the other. */
class Collector {
  readonly pieces: Piece[] = []
  readonly objects: Found['objects'] = []
  readonly nodes: MeshNode[] = []
  triangles = 0
  skipped = 0
  private readonly numbers = new Map<Node, number>()
  private readonly shapes = new Map<GltfMesh, number>()

  /** @param called names of materials */
  constructor(
    private readonly called: ReadonlyMap<Material | null, string>,
    private readonly limits: ReadLimits,
    private readonly warnings: string[],
  ) {}

  take(node: Node): void {
    const mesh = node.getMesh()
    const up = node.getParentNode()
    const number = this.addNode(node.getName(), node.getMatrix(), up ? this.numbers.get(up) : undefined, extrasOf(node))
    this.numbers.set(node, number)
    if (!mesh) return
    const shape = this.shapes.get(mesh) ?? this.shapes.size
    this.shapes.set(mesh, shape)
    const plain = node.getName() || mesh.getName() || `Object ${this.objects.length + 1}`
    const parents = parentsOf(node)
    const world = node.getWorldMatrix()
    const instances = instancesOf(node)
    const kept = { parents, shape, ...extrasOf(mesh) }
    if (!instances.length) return this.takeMesh(mesh, world, { name: plain, node: number, ...kept })
    instances.forEach((own, i) => {
      const name = instances.length > 1 ? `${plain} ${i + 1}` : plain
      const at = this.addNode(name, own, number)
      this.takeMesh(mesh, product(world, own), { name, node: at, ...kept })
    })
  }

  private addNode(name: string, matrix: readonly number[], within?: number, more?: Pick<MeshNode, 'extras'>): number {
    return this.nodes.push({ name, matrix: [...matrix], ...(within !== undefined && { within }), ...more }) - 1
  }

  private takeMesh(mesh: GltfMesh, matrix: readonly number[], object: Found['objects'][number]): void {
    const { pieces, warnings } = this
    const before = pieces.length
    const number = this.objects.length
    // Primitives that share their vertices (one for each material, say) become one piece, so that nothing is doubled.
    const byVertices = new Map<string, { list: Accessor[]; piece: Piece }[]>()
    for (const primitive of mesh.listPrimitives()) {
      const accessors = primitive.listAttributes()
      const semantics = primitive.listSemantics().join()
      const twin = byVertices.get(semantics)?.find(t => t.list.every((a, k) => a === accessors[k]))?.piece
      const material = this.called.get(primitive.getMaterial()) ?? ''
      const piece = readPrimitive(primitive, matrix, { name: object.name, object: number, material }, warnings)
      if (!piece) {
        this.skipped++
        continue
      }
      this.triangles += piece.triangles.length / 3
      checkTriangles(this.triangles, this.limits)
      if (twin) {
        twin.triangles = concat(twin.triangles, piece.triangles)
        twin.runs.push(...piece.runs)
        continue
      }
      byVertices.set(semantics, [...(byVertices.get(semantics) ?? []), { list: accessors, piece }])
      if (piece.triangles.length) pieces.push(piece)
    }
    if (pieces.length > before) this.objects.push(object)
  }
}

/** What a pipeline wrote of something. */
function extrasOf(of: { getExtras(): Extras } | null | undefined): { extras?: Extras } {
  const extras = of?.getExtras() ?? {}
  return Object.keys(extras).length ? { extras } : {}
}

/** Names of the nodes above one, the outermost first; those without a name are left out. */
function parentsOf(node: Node): string[] {
  const parents: string[] = []
  for (let up = node.getParentNode(); up; up = up.getParentNode()) if (up.getName()) parents.unshift(up.getName())
  return parents
}

function collect(document: Document, json: GLTF.IGLTF, limits: ReadLimits, warnings: string[]): Found {
  const root = document.getRoot()
  const nodes = sceneNodes(document, warnings)
  if (list(json.animations).length)
    warnings.push('The file has animations; the mesh was read as it stands without them.')
  const materials = root.listMaterials()
  const called = namesOf(materials)
  const collected = new Collector(called, limits, warnings)
  for (const node of nodes) collected.take(node)
  const { skipped } = collected
  if (!collected.triangles) fail('The file has no triangles.')
  if (skipped)
    warnings.push(`${skipped} ${skipped === 1 ? 'piece is' : 'pieces are'} made of points or lines and left out.`)
  const names = list(json.nodes)
    .map(n => n?.name)
    .filter(Boolean)
  const repeated = names.length - new Set(names).size
  if (repeated)
    warnings.push(
      `${repeated} ${repeated === 1 ? 'node has' : 'nodes have'} a name that another one has as well; such objects are told apart by their place.`,
    )
  const used = root.listMeshes().flatMap(m => m.listPrimitives())
  const isColored = (m: Material): boolean => {
    const wearing = used.filter(p => p.getMaterial() === m)
    return wearing.length > 0 && wearing.every(p => p.getAttribute('COLOR_0'))
  }
  const surfaces = materials.map(m => surfaceOf(m, called.get(m)!, isColored(m)))
  const { pieces, objects } = collected
  const scene = root.getDefaultScene() ?? root.listScenes()[0]
  const kept = { nodes: collected.nodes, ...extrasOf(scene) }
  return { pieces, objects, ...kept, surfaces, warnings: [...new Set(warnings)] }
}

/** What glTF's wrap modes mean (glTF 2.0, section 5.26). */
const BEYOND: Record<number, Beyond> = { 10497: 'repeat', 33648: 'mirror', 33071: 'edge' }
const MAG_NEAREST = 9728
/** Extensions of materials that a surface has room for. */
const KEPT = ['KHR_materials_emissive_strength']

function surfaceOf(material: Material, name: string, colored: boolean): Surface {
  const [r, g, b, alpha] = material.getBaseColorFactor()
  const textures: Surface['textures'] = []
  const add = (use: SurfaceUse, texture: Texture | null, info: TextureInfo | null) => {
    const bytes = texture?.getImage()
    if (!texture || !info || !bytes || bytes.length <= SMALLEST_PICTURE) return
    const placed = info.getExtension<Transform>('KHR_texture_transform')
    const uvSet = placed?.getTexCoord() ?? info.getTexCoord()
    const beyond = [info.getWrapS(), info.getWrapT()].map(w => BEYOND[w] ?? 'repeat') as [Beyond, Beyond]
    textures.push({
      use,
      type: texture.getMimeType(),
      bytes: bytes.slice(),
      ...(uvSet && { uvSet }),
      ...(placed && { placed: { move: placed.getOffset(), turn: placed.getRotation(), scale: placed.getScale() } }),
      ...(beyond.some(w => w !== 'repeat') && { beyond }),
      ...(info.getMagFilter() === MAG_NEAREST && { nearest: true as const }),
    })
  }
  add('base color', material.getBaseColorTexture(), material.getBaseColorTextureInfo())
  add('metalness and roughness', material.getMetallicRoughnessTexture(), material.getMetallicRoughnessTextureInfo())
  add('normal', material.getNormalTexture(), material.getNormalTextureInfo())
  const bent = textures.find(t => t.use === 'normal')
  if (bent && material.getNormalScale() !== 1) bent.strength = material.getNormalScale()
  add('occlusion', material.getOcclusionTexture(), material.getOcclusionTextureInfo())
  const shut = textures.find(t => t.use === 'occlusion')
  if (shut && material.getOcclusionStrength() !== 1) shut.strength = material.getOcclusionStrength()
  add('emission', material.getEmissiveTexture(), material.getEmissiveTextureInfo())
  const strength =
    material.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ?? 1
  const emission = material.getEmissiveFactor().map(x => x * strength) as [number, number, number]
  const mode = material.getAlphaMode()
  const lost = material.listExtensions().map(e => e.extensionName)
  const beyondUs = lost.filter(e => !KEPT.includes(e))
  return {
    name,
    baseColor: [r, g, b],
    metalness: material.getMetallicFactor(),
    roughness: material.getRoughnessFactor(),
    ...(emission.some(x => x > 0) && { emission }),
    ...(mode !== 'OPAQUE' && { opacity: alpha }),
    ...(mode === 'MASK' && { cutoff: material.getAlphaCutoff() }),
    ...(colored && { vertexColor: 'COLOR_0' }),
    textures,
    ...(beyondUs.length && { lost: beyondUs }),
  }
}

/** A name for each material: its own, and a number behind it where it has none or another one has it, too. */
function namesOf(materials: readonly Material[]): Map<Material | null, string> {
  const names = new Map<Material | null, string>()
  const taken = new Set<string>()
  materials.forEach((m, i) => {
    const own = m.getName() || `Material ${i + 1}`
    let name = own
    for (let n = 2; taken.has(name); n++) name = `${own} ${n}`
    taken.add(name)
    names.set(m, name)
  })
  return names
}

const concat = (a: Uint32Array, b: Uint32Array): Uint32Array => {
  const both = new Uint32Array(a.length + b.length)
  both.set(a)
  both.set(b, a.length)
  return both
}

function readPrimitive(
  primitive: Primitive,
  matrix: readonly number[],
  { name, object, material }: { name: string; object: number; material: string },
  warnings: string[],
): Piece | null {
  const position = primitive.getAttribute('POSITION')
  if (!position?.getArray()) return null
  const positions = floats(position)
  if (position.getElementSize() !== 3) fail(`The positions of "${name}" do not have three numbers each.`)
  checkPositions(positions, name)
  const count = positions.length / 3
  const triangles = triangleList(primitive, count)
  if (!triangles) return null
  checkIndices(triangles, count, name)

  const maps: Piece['maps'] = new Map()
  const attribute = (semantic: string, size: number) => {
    const a = primitive.getAttribute(semantic)
    if (!a?.getArray()) return undefined
    if (a.getElementSize() !== size || a.getCount() !== count)
      fail(`${semantic} of "${name}" does not match its positions.`)
    return floats(a)
  }
  for (const semantic of primitive.listSemantics()) {
    const set = /^TEXCOORD_([1-9]\d*)$/.exec(semantic)
    const isColor = /^COLOR_\d+$/.test(semantic)
    const named = isColor ? semantic : (/^_(.*)$/.exec(semantic)?.[1] ?? '')
    const as = set ? `UV ${Number(set[1]) + 1}` : named
    if (!as) continue
    const a = primitive.getAttribute(semantic)!
    if (!a.getArray() || a.getCount() !== count || a.getElementSize() > 4)
      warnings.push(`The attribute ${semantic} of "${name}" does not match its vertices and was left out.`)
    else maps.set(as, { components: a.getElementSize(), values: floats(a) })
  }
  return {
    object,
    matrix,
    runs: [{ material, corners: triangles.length }],
    positions,
    normals: attribute('NORMAL', 3),
    uvs: attribute('TEXCOORD_0', 2),
    triangles,
    maps,
  }
}
