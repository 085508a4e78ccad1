import {
  Document,
  WebIO,
  type Accessor,
  type Buffer,
  type Material,
  type Mesh as GltfMesh,
  type Node,
  type Primitive,
  type Scene,
} from '@gltf-transform/core'
import {
  KHRMaterialsDiffuseTransmission,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsVariants,
} from '@gltf-transform/extensions'
import type { Mesh, MeshObject, VertexMap } from '../mesh/mesh'
import type { Compression } from './compression'
import { GlbMaterials, type GlbSurface } from './glbMaterials'
import { features, MeshFeatures } from './meshFeatures'

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

const EXTENSIONS = [KHRMaterialsDiffuseTransmission, KHRMaterialsEmissiveStrength, KHRMaterialsVariants, MeshFeatures]

/** Nodes by the paths of names that lead to them, made where they are missing. */
class Folders {
  private readonly known = new Map<string, Node>()
  constructor(
    private readonly document: Document,
    private readonly scene: Scene,
  ) {}

  at(path: readonly string[]): Node | Scene {
    if (!path.length) return this.scene
    const key = JSON.stringify(path)
    const old = this.known.get(key)
    if (old) return old
    const made = this.document.createNode(path.at(-1))
    this.known.set(key, made)
    this.at(path.slice(0, -1)).addChild(made)
    return made
  }
}

const TYPES = ['SCALAR', 'VEC2', 'VEC3', 'VEC4'] as const

/** What stands at the vertices of an object, by the names that glTF has for it. */
function attributesOf(
  document: Document,
  buffer: Buffer,
  mesh: Mesh,
  { firstVertex, vertices }: MeshObject,
  look?: GlbLook,
): [semantic: string, values: Accessor][] {
  const run = (values: Float32Array, size: number): Accessor =>
    document
      .createAccessor()
      .setType(TYPES[size - 1]!)
      .setArray(values.slice(firstVertex * size, (firstVertex + vertices) * size) as Float32Array<ArrayBuffer>)
      .setBuffer(buffer)
  const all: [string, Accessor][] = [
    ['POSITION', run(mesh.positions, 3)],
    ['NORMAL', run(mesh.normals, 3)],
  ]
  if (mesh.uvs) all.push(['TEXCOORD_0', run(mesh.uvs, 2)])
  if (look?.tangents) all.push(['TANGENT', run(look.tangents, 4)])
  if (look?.vertexColors) all.push(['COLOR_0', run(look.vertexColors, 3)])
  const named = look?.maps ?? []
  const names = new Set(named.map(m => m.name))
  for (const map of [...named, ...mesh.maps.filter(m => !names.has(m.name))]) {
    const values = run(map.values, map.components)
    all.push([semanticOf(map, named.includes(map), look !== undefined), values])
    if (map.name === PART_INDEX && named.includes(map)) all.push(['_FEATURE_ID_0', values])
  }
  return all
}
/** @param named whether it is of the look, and not of the file */
function semanticOf({ name }: VertexMap, named: boolean, hasLook: boolean): string {
  const isColor = (name === 'COLOR_0' && !hasLook) || (named && /^COLOR_\d$/.test(name))
  return isColor ? name : `_${name}`
}

/** Writes objects into a glTF document. */
class ObjectWriter {
  private readonly buffer: Buffer
  constructor(
    private readonly document: Document,
    private readonly mesh: Mesh,
    private readonly look?: GlbLook,
  ) {
    this.buffer = document.createBuffer()
  }

  /** One mesh for an object, whose primitives `each` makes from runs of its triangles. */
  write(object: MeshObject, each: (make: (triangles: ArrayLike<number>) => Primitive) => void): GltfMesh {
    const { document, mesh } = this
    const made = document.createMesh(object.name)
    const attributes = attributesOf(document, this.buffer, mesh, object, this.look)
    each(triangles => {
      const primitive = document.createPrimitive().setIndices(this.indices(object, triangles))
      for (const [semantic, values] of attributes) primitive.setAttribute(semantic, values)
      made.addPrimitive(primitive)
      return primitive
    })
    return made
  }

  private indices({ firstVertex, vertices }: MeshObject, triangles: ArrayLike<number>): Accessor {
    const indices = new Uint32Array(triangles.length * 3)
    for (let i = 0; i < triangles.length; i++)
      for (let k = 0; k < 3; k++) indices[i * 3 + k] = this.mesh.indices[triangles[i]! * 3 + k]! - firstVertex
    const array = vertices < 65536 ? Uint16Array.from(indices) : indices
    return this.document.createAccessor().setType('SCALAR').setBuffer(this.buffer).setArray(array)
  }
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
  return (object: MeshObject, make: (triangles: ArrayLike<number>) => Primitive): void => {
    for (const [tile, triangles] of byTile(object, tileOf)) {
      const of = worn.map(m => m.get(tile))
      mapped(make(triangles).setMaterial(of[0] ?? null), of)
    }
  }
}

/** Gives primitives the materials of the file. */
const undressed =
  (mesh: Mesh, materials: GlbMaterials) =>
  (object: MeshObject, make: (triangles: ArrayLike<number>) => Primitive): void => {
    for (const run of mesh.materials) {
      const first = Math.max(run.firstTriangle, object.firstTriangle)
      const end = Math.min(run.firstTriangle + run.triangles, object.firstTriangle + object.triangles)
      if (first >= end) continue
      const made = make(rangeOf(first, end))
      if (run.name) made.setMaterial(materials.ofFile(run.name, mesh))
    }
  }

/** Says which part each feature id is, where the vertices have them. */
function nameParts(document: Document, scene: Scene, { maps, keys }: GlbLook): void {
  if (!keys || !maps?.some(m => m.name === PART_INDEX)) return
  scene.setExtras({ partKeys: [...keys] })
  for (const made of document.getRoot().listMeshes())
    for (const primitive of made.listPrimitives())
      primitive.setExtension('EXT_mesh_features', features(document).createIds(keys.length))
}

/**
 * Writes a mesh as binary glTF 2.0: one node and one mesh per object, inside the nodes that the file had it in, vertex
 * maps as custom attributes (`_name`). Without a look the mesh's own materials are written, without pictures; with one,
 * a material for each tile carries it, several variants through KHR_materials_variants, and a `COLOR_0` that came with
 * the file is kept as `_COLOR_0`, since viewers would multiply it onto the color.
 */
export async function writeGlb(mesh: Mesh, name: string, look?: GlbLook): Promise<Uint8Array> {
  const document = new Document()
  const objects = new ObjectWriter(document, mesh, look)
  const scene = document.createScene(name)
  document.getRoot().getAsset().generator = 'Ubblet'
  document.getRoot().setDefaultScene(scene)
  const materials = new GlbMaterials(document)
  const dress = look ? dresser(document, materials, look) : undressed(mesh, materials)
  const folders = new Folders(document, scene)
  for (const object of mesh.objects) {
    const made = objects.write(object, make => dress(object, make))
    folders.at(object.parents ?? []).addChild(document.createNode(object.name).setMesh(made))
  }
  if (look) nameParts(document, scene, look)
  const io = new WebIO().registerExtensions(EXTENSIONS)
  const how = look?.compression ?? 'none'
  if (how === 'none') return io.writeBinary(document)
  const { compress, compressing } = await import('./compressGlb')
  await compress(document, how)
  return compressing(io).writeBinary(document)
}
