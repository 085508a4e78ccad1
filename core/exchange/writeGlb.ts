import {
  Document,
  WebIO,
  type Accessor,
  type Buffer,
  type mat4,
  type Material,
  type Mesh as GltfMesh,
  type Node,
  type Primitive,
  type Scene,
} from '@gltf-transform/core'
import {
  EXTTextureWebP,
  KHRMaterialsDiffuseTransmission,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsVariants,
} from '@gltf-transform/extensions'
import { Matrix4 } from 'three'
import type { Mesh, MeshNode, MeshObject, VertexMap } from '../mesh/mesh'
import type { Compression } from './compression'
import { withJson } from './glbChunks'
import { GlbMaterials, referToWebp, type GlbSurface } from './glbMaterials'
import { features, MeshFeatures } from './meshFeatures'
import { isAlike, OwnSpaces, placed, type OwnGeometry, type Placed } from './ownSpace'

export type { GlbSurface } from './glbMaterials'

/** The vertex map of the part's number: in a GLB the feature id of EXT_mesh_features as well. */
export const PART_INDEX = 'part_index'

/** A look as a GLB carries it: a surface for each tile. */
export interface GlbVariant {
  name: string
  tiles: ReadonlyMap<number, GlbSurface>
}
export interface GlbLook {
  variants: readonly GlbVariant[]
  /** Which tile a triangle belongs to; all to the first where it is left out. */
  tileOf?: (triangle: number) => number
  /**
   * Linear base color per vertex, three numbers each: written as `COLOR_0`, which viewers multiply onto the picture.
   */
  vertexColors?: Float32Array
  /** Named values per vertex, written as `_NAME`, or under their name where that is `COLOR_n`. */
  maps?: readonly VertexMap[]
  /** Four numbers per vertex, written as `TANGENT`. */
  tangents?: Float32Array
  /**
   * The key of each part, written into the extras of the scene where a map {@link PART_INDEX} says which part a vertex
   * belongs to.
   */
  keys?: readonly string[]
  compression?: Compression
}

const EXTENSIONS = [
  EXTTextureWebP,
  KHRMaterialsDiffuseTransmission,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsVariants,
  MeshFeatures,
]

/** The nodes of a mesh in a glTF document. */
class Nodes {
  private readonly made: readonly Node[]
  private readonly worlds: readonly Matrix4[]

  constructor(document: Document, scene: Scene, nodes: readonly MeshNode[]) {
    this.made = nodes.map(({ name, matrix, extras }) =>
      document
        .createNode(name)
        .setMatrix([...matrix] as mat4)
        .setExtras({ ...extras }),
    )
    nodes.forEach(({ within }, i) => (within === undefined ? scene : this.made[within]!).addChild(this.made[i]!))
    // As they are written: a matrix becomes a turn, a scale and a move.
    this.worlds = this.made.map(n => new Matrix4().fromArray(n.getWorldMatrix()))
  }

  /** From the space of an object's node to the world. */
  worldOf({ node }: Placed): Matrix4 {
    return this.worlds[node]!
  }
  put({ node }: Placed, mesh: GltfMesh): void {
    this.made[node]!.setMesh(mesh)
  }
}

const TYPES = ['SCALAR', 'VEC2', 'VEC3', 'VEC4'] as const

/** Numbers at the vertices of an object, by the name that glTF has for them. */
interface Attribute {
  semantic: string
  values: Float32Array
  size: number
}

/** What stands at the vertices of an object. */
function attributesOf(mesh: Mesh, object: MeshObject, own: OwnGeometry, look?: GlbLook): Attribute[] {
  const { firstVertex, vertices } = object
  const all: Attribute[] = [
    { semantic: 'POSITION', values: own.positions, size: 3 },
    { semantic: 'NORMAL', values: own.normals, size: 3 },
  ]
  const add = (semantic: string, values: Float32Array, size: number): void => {
    const run = values.slice(firstVertex * size, (firstVertex + vertices) * size)
    all.push({ semantic, values: run, size })
  }
  if (mesh.uvs) add('TEXCOORD_0', mesh.uvs, 2)
  if (own.tangents) all.push({ semantic: 'TANGENT', values: own.tangents, size: 4 })
  if (look?.vertexColors) add('COLOR_0', look.vertexColors, 3)
  const named = look?.maps ?? []
  const names = new Set(named.map(m => m.name))
  for (const map of [...named, ...mesh.maps.filter(m => !names.has(m.name))]) {
    add(semanticOf(map, named.includes(map), look !== undefined), map.values, map.components)
    if (map.name === PART_INDEX && named.includes(map)) add('_FEATURE_ID_0', map.values, map.components)
  }
  return all
}
/** @param named whether it is of the look, and not of the file */
function semanticOf({ name }: VertexMap, named: boolean, hasLook: boolean): string {
  const isColor = (name === 'COLOR_0' && !hasLook) || (named && /^COLOR_\d$/.test(name))
  return isColor ? name : `_${name}`
}

/** A run of an object's triangles in one material, which a tag tells from others. */
interface Dressed {
  triangles: ArrayLike<number>
  tag: string | number
  wear: (primitive: Primitive) => void
}

/**
 * Writes objects into a glTF document. What the file has once and places several times is written once, as far as it is
 * still the same: all of it, or the numbers that are.
 */
class ObjectWriter {
  private readonly buffer: Buffer
  private readonly accessors = new Map<string, { accessor: Accessor; number: number }>()
  private readonly meshes = new Map<string, GltfMesh>()
  private count = 0

  constructor(
    private readonly document: Document,
    private readonly mesh: Mesh,
    private readonly look?: GlbLook,
  ) {
    this.buffer = document.createBuffer()
  }

  /** @param own the object in the space that it is written in */
  write(object: Placed, own: OwnGeometry, dressed: readonly Dressed[]): GltfMesh {
    const { document, mesh, look } = this
    // Never with another object, where the file does not say that they are the same.
    const shape = String(object.shape ?? `of node ${object.node}`)
    const attributes = attributesOf(mesh, object, own, look).map(a => ({
      ...a,
      ...this.accessor(`${shape} ${a.semantic}`, a.values, TYPES[a.size - 1]!),
    }))
    const runs = dressed.map((run, i) => ({
      ...run,
      ...this.accessor(`${shape} indices ${i}`, indicesOf(object, own, run.triangles), 'SCALAR'),
    }))
    const key = [shape, ...attributes.map(a => a.number), ...runs.map(r => `${r.tag} ${r.number}`)].join()
    const known = this.meshes.get(key)
    if (known) return known
    const made = document.createMesh(object.name).setExtras({ ...object.extras })
    this.meshes.set(key, made)
    for (const { accessor, wear } of runs) {
      const primitive = document.createPrimitive().setIndices(accessor)
      for (const a of attributes) primitive.setAttribute(a.semantic, a.accessor)
      wear(primitive)
      made.addPrimitive(primitive)
    }
    return made
  }

  /** An accessor with some numbers: the one that is known under a key where its numbers are the same. */
  private accessor(
    key: string,
    values: Float32Array | Uint16Array | Uint32Array,
    type: (typeof TYPES)[number],
  ): { accessor: Accessor; number: number } {
    const known = this.accessors.get(key)
    if (known && isAlike(known.accessor.getArray()!, values, 0)) return known
    const accessor = this.document
      .createAccessor()
      .setType(type)
      .setArray(values as Float32Array<ArrayBuffer>)
      .setBuffer(this.buffer)
    const made = { accessor, number: this.count++ }
    if (!known) this.accessors.set(key, made)
    return made
  }
}

function indicesOf({ firstTriangle, vertices }: MeshObject, own: OwnGeometry, triangles: ArrayLike<number>) {
  const indices = new Uint32Array(triangles.length * 3)
  for (let i = 0; i < triangles.length; i++)
    for (let k = 0; k < 3; k++) indices[i * 3 + k] = own.indices[(triangles[i]! - firstTriangle) * 3 + k]!
  return vertices < 65536 ? Uint16Array.from(indices) : indices
}

const rangeOf = (first: number, end: number): Uint32Array =>
  Uint32Array.from({ length: end - first }, (_, i) => first + i)

/** The triangles of an object by the tile that they belong to. */
function byTile({ firstTriangle, triangles }: MeshObject, tileOf: (triangle: number) => number): Map<number, number[]> {
  const tiles = new Map<number, number[]>()
  for (let t = firstTriangle; t < firstTriangle + triangles; t++) {
    const tile = tileOf(t)
    const list = tiles.get(tile)
    if (list) list.push(t)
    else tiles.set(tile, [t])
  }
  return tiles
}

/** Dresses primitives in a look: by tile, and in the materials of several variants. */
function dresser(document: Document, materials: GlbMaterials, look: GlbLook) {
  const { variants } = look
  const worn = variants.map(
    ({ name, tiles }) =>
      new Map(
        [...tiles].map(([tile, surface]) => {
          const title = [name, ...(tiles.size > 1 ? [tile] : [])].join(' ')
          return [tile, materials.ofSurface(title, surface, look.vertexColors !== undefined)]
        }),
      ),
  )
  const extension = variants.length > 1 ? document.createExtension(KHRMaterialsVariants) : undefined
  const choices = variants.map(v => extension?.createVariant(v.name))
  const mapped = (primitive: Primitive, of: readonly (Material | undefined)[]): void => {
    if (!extension) return
    const mappings = extension.createMappingList()
    of.forEach((material, i) => {
      if (material) mappings.addMapping(extension.createMapping().setMaterial(material).addVariant(choices[i]!))
    })
    primitive.setExtension('KHR_materials_variants', mappings)
  }
  const tileOf = look.tileOf ?? (() => worn[0]!.keys().next().value ?? 0)
  return (object: MeshObject): Dressed[] =>
    [...byTile(object, tileOf)].map(([tile, triangles]) => ({
      triangles,
      tag: tile,
      wear(primitive) {
        const of = worn.map(m => m.get(tile))
        mapped(primitive.setMaterial(of[0] ?? null), of)
      },
    }))
}

/** Gives primitives the materials of the file. */
const undressed =
  (mesh: Mesh, materials: GlbMaterials) =>
  (object: MeshObject): Dressed[] =>
    mesh.materials.flatMap(({ name, firstTriangle, triangles }) => {
      const first = Math.max(firstTriangle, object.firstTriangle)
      const end = Math.min(firstTriangle + triangles, object.firstTriangle + object.triangles)
      if (first >= end) return []
      const wear = (primitive: Primitive): void => {
        if (name) primitive.setMaterial(materials.ofFile(name, mesh))
      }
      return [{ triangles: rangeOf(first, end), tag: name, wear }]
    })

/** Says which part each feature id is, where the vertices have them. */
function nameParts(document: Document, scene: Scene, { maps, keys }: GlbLook): void {
  if (!keys || !maps?.some(m => m.name === PART_INDEX)) return
  scene.setExtras({ ...scene.getExtras(), partKeys: [...keys] })
  for (const made of document.getRoot().listMeshes())
    for (const primitive of made.listPrimitives())
      primitive.setExtension('EXT_mesh_features', features(document).createIds(keys.length))
}

/**
 * Writes a mesh as binary glTF 2.0: the nodes that the file had, with what they say besides, each object in the space
 * of its own; what the file had once and placed several times is there once, as far as it is still the same. Vertex
 * maps are custom attributes (`_name`). Without a look the mesh's own materials are written, without pictures; with
 * one, a material for each tile carries it, several variants through KHR_materials_variants, and a `COLOR_0` that came
 * with the file is kept as `_COLOR_0`, since viewers would multiply it onto the color.
 */
export async function writeGlb(mesh: Mesh, name: string, look?: GlbLook): Promise<Uint8Array> {
  const document = new Document()
  const writer = new ObjectWriter(document, mesh, look)
  const scene = document.createScene(name).setExtras({ ...mesh.extras })
  document.getRoot().getAsset().generator = 'Ubblet'
  document.getRoot().setDefaultScene(scene)
  const materials = new GlbMaterials(document)
  const dress = look ? dresser(document, materials, look) : undressed(mesh, materials)
  const { nodes, objects } = placed(mesh)
  const places = new Nodes(document, scene, nodes)
  const spaces = new OwnSpaces(mesh, objects, o => places.worldOf(o), look?.tangents)
  for (const object of objects) places.put(object, writer.write(object, spaces.of(object), dress(object)))
  if (look) nameParts(document, scene, look)
  const io = new WebIO().registerExtensions(EXTENSIONS)
  const glb = await written(document, io, look?.compression ?? 'none')
  const hasWebp = document
    .getRoot()
    .listExtensionsUsed()
    .some(e => e instanceof EXTTextureWebP)
  return hasWebp ? withJson(glb, referToWebp) : glb
}

async function written(document: Document, io: WebIO, how: Compression): Promise<Uint8Array> {
  if (how === 'none') return io.writeBinary(document)
  const { compress, compressing } = await import('./compressGlb')
  await compress(document, how)
  return compressing(io).writeBinary(document)
}
