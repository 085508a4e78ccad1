import { Document, WebIO, type Material, type Node, type Texture } from '@gltf-transform/core'
import {
  KHRMaterialsDiffuseTransmission,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsVariants,
  type DiffuseTransmission,
  type EmissiveStrength,
} from '@gltf-transform/extensions'
import type { Compression } from './compression'
import { features, MeshFeatures } from './meshFeatures'
import type { Mesh, VertexMap } from '../mesh/mesh'

/** The vertex map of the part's number: in a GLB the feature id of EXT_mesh_features as well. */
export const PART_INDEX = 'part_index'

const THROUGH = 'KHR_materials_diffuse_transmission'

/** What a GLB carries of a look on the triangles of one tile. Pictures are PNG files. */
export interface GlbSurface {
  baseColor?: Uint8Array
  /** Roughness in green, metalness in blue, as glTF packs them. */
  metallicRoughness?: Uint8Array
  /** Its red is occlusion. */
  occluded?: boolean
  normal?: Uint8Array
  emissive?: Uint8Array
  /** What the emissive picture is to be multiplied by. */
  emissiveStrength?: number
  /** The color of the diffuse light that passes through, and in its alpha how much of it does. */
  through?: Uint8Array
  /** The base color's alpha is to be heeded. */
  opacity?: boolean
  /** Used where there is no picture. */
  factors?: {
    baseColor: [number, number, number]
    metalness: number
    roughness: number
    /** The color of what passes through, and how much does. */
    through?: [number, number, number, number]
  }
}
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

/**
 * Writes a mesh as binary glTF 2.0: one node and one mesh per object, inside the nodes that the file had it in, vertex
 * maps as custom attributes (`_name`). Without a look the mesh's own materials are written, without pictures; with one,
 * a material for each tile carries it, several variants through KHR_materials_variants, and a `COLOR_0` that came with
 * the file is kept as `_COLOR_0`, since viewers would multiply it onto the color.
 */
export async function writeGlb(mesh: Mesh, name: string, look?: GlbLook): Promise<Uint8Array> {
  const document = new Document()
  const buffer = document.createBuffer()
  const scene = document.createScene(name)
  document.getRoot().getAsset().generator = 'Ubblet'
  document.getRoot().setDefaultScene(scene)
  const materials = new Map<string, Material>()
  const material = (key: string) => {
    let m = materials.get(key)
    if (!m) {
      materials.set(key, (m = document.createMaterial(key)))
      const known = mesh.surfaces?.find(s => s.name === key)
      if (known)
        m.setBaseColorFactor([...known.baseColor, 1])
          .setMetallicFactor(known.metalness)
          .setRoughnessFactor(known.roughness)
    }
    return m
  }
  // Each picture is stored once, whichever variants and tiles have it.
  const textures = new Map<Uint8Array, Texture>()
  const strength = new Map<number, EmissiveStrength>()
  const texture = (title: string, png: Uint8Array) => {
    let t = textures.get(png)
    if (!t)
      textures.set(
        png,
        (t = document
          .createTexture(title)
          .setImage(png as Uint8Array<ArrayBuffer>)
          .setMimeType('image/png')),
      )
    return t
  }
  const surfaceMaterial = (title: string, surface: GlbSurface): Material => {
    const { baseColor, metalness, roughness } = surface.factors ?? { baseColor: [1, 1, 1], metalness: 1, roughness: 1 }
    const m = document
      .createMaterial(title)
      .setBaseColorFactor(surface.baseColor || look!.vertexColors ? [1, 1, 1, 1] : [...baseColor, 1])
      .setMetallicFactor(surface.metallicRoughness ? 1 : metalness)
      .setRoughnessFactor(surface.metallicRoughness ? 1 : roughness)
    if (surface.baseColor) m.setBaseColorTexture(texture(`${title} base color`, surface.baseColor))
    if (surface.metallicRoughness)
      m.setMetallicRoughnessTexture(texture(`${title} occlusion roughness metalness`, surface.metallicRoughness))
    if (surface.metallicRoughness && surface.occluded) m.setOcclusionTexture(texture('', surface.metallicRoughness))
    if (surface.normal) m.setNormalTexture(texture(`${title} normal`, surface.normal))
    if (surface.emissive) {
      m.setEmissiveTexture(texture(`${title} emissive`, surface.emissive)).setEmissiveFactor([1, 1, 1])
      const times = surface.emissiveStrength ?? 1
      if (times > 1) {
        if (!strength.has(times))
          strength.set(
            times,
            document.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(times),
          )
        m.setExtension('KHR_materials_emissive_strength', strength.get(times)!)
      }
    }
    if (surface.through || surface.factors?.through) m.setExtension(THROUGH, throughOf(title, surface))
    return surface.opacity ? m.setAlphaMode('BLEND') : m
  }
  /** What passes through, where the surface lets anything pass. */
  const throughOf = (title: string, { through, factors }: GlbSurface): DiffuseTransmission => {
    const made = document.createExtension(KHRMaterialsDiffuseTransmission).createDiffuseTransmission()
    if (through) {
      const packed = texture(`${title} translucency`, through)
      return made
        .setDiffuseTransmissionFactor(1)
        .setDiffuseTransmissionTexture(packed)
        .setDiffuseTransmissionColorTexture(packed)
    }
    const [r, g, b, share] = factors!.through!
    return made.setDiffuseTransmissionFactor(share).setDiffuseTransmissionColorFactor([r, g, b])
  }
  const whole = look?.variants.map(
    v =>
      new Map(
        [...v.tiles].map(([tile, s]) => [
          tile,
          surfaceMaterial([v.name, ...(v.tiles.size > 1 ? [tile] : [])].join(' '), s),
        ]),
      ),
  )
  const extension = look && look.variants.length > 1 ? document.createExtension(KHRMaterialsVariants) : undefined
  const variants = extension && look!.variants.map(v => extension.createVariant(v.name))

  const folders = new Map<string, Node>()
  /** The node of a path of names, made where it is missing. */
  const folder = (path: readonly string[]): Node | undefined => {
    if (!path.length) return undefined
    const key = JSON.stringify(path)
    let node = folders.get(key)
    if (!node) {
      folders.set(key, (node = document.createNode(path.at(-1))))
      ;(folder(path.slice(0, -1)) ?? scene).addChild(node)
    }
    return node
  }
  for (const object of mesh.objects) {
    const gltfMesh = document.createMesh(object.name)
    ;(folder(object.parents ?? []) ?? scene).addChild(document.createNode(object.name).setMesh(gltfMesh))
    const from = object.firstVertex
    const to = from + object.vertices
    const accessor = (type: 'VEC2' | 'VEC3' | 'VEC4' | 'SCALAR', array: Float32Array) =>
      document
        .createAccessor()
        .setType(type)
        .setArray(array as Float32Array<ArrayBuffer>)
        .setBuffer(buffer)
    const vector = (size: number) => (['SCALAR', 'VEC2', 'VEC3', 'VEC4'] as const)[size - 1]!
    const shared: [string, ReturnType<typeof accessor>][] = [
      ['POSITION', accessor('VEC3', mesh.positions.slice(from * 3, to * 3))],
      ['NORMAL', accessor('VEC3', mesh.normals.slice(from * 3, to * 3))],
    ]
    if (mesh.uvs) shared.push(['TEXCOORD_0', accessor('VEC2', mesh.uvs.slice(from * 2, to * 2))])
    if (look?.tangents) shared.push(['TANGENT', accessor('VEC4', look.tangents.slice(from * 4, to * 4))])
    if (look?.vertexColors) shared.push(['COLOR_0', accessor('VEC3', look.vertexColors.slice(from * 3, to * 3))])
    const named = look?.maps ?? []
    const taken = new Set(named.map(m => m.name))
    for (const map of [...named, ...mesh.maps.filter(m => !taken.has(m.name))]) {
      const semantic =
        (map.name === 'COLOR_0' && !look) || (named.includes(map) && /^COLOR_\d$/.test(map.name))
          ? map.name
          : `_${map.name}`
      shared.push([
        semantic,
        accessor(vector(map.components), map.values.slice(from * map.components, to * map.components)),
      ])
      if (map.name === PART_INDEX && named.includes(map)) shared.push(['_FEATURE_ID_0', shared.at(-1)![1]])
    }
    const primitive = (triangles: Uint32Array, first: number, end: number) => {
      const indices = new Uint32Array((end - first) * 3)
      for (let i = first; i < end; i++)
        for (let k = 0; k < 3; k++) indices[(i - first) * 3 + k] = mesh.indices[triangles[i]! * 3 + k]! - from
      const made = document.createPrimitive().setIndices(
        document
          .createAccessor()
          .setType('SCALAR')
          .setBuffer(buffer)
          .setArray(object.vertices < 65536 ? Uint16Array.from(indices) : indices),
      )
      for (const [semantic, values] of shared) made.setAttribute(semantic, values)
      gltfMesh.addPrimitive(made)
      return made
    }
    const own = Uint32Array.from({ length: object.triangles }, (_, i) => object.firstTriangle + i)
    if (whole) {
      const tileOf = look!.tileOf ?? (() => whole[0]!.keys().next().value ?? 0)
      const tiles = new Map<number, number[]>()
      for (const t of own) {
        const tile = tileOf(t)
        const list = tiles.get(tile)
        if (list) list.push(t)
        else tiles.set(tile, [t])
      }
      for (const [tile, list] of tiles) {
        const made = primitive(Uint32Array.from(list), 0, list.length)
        const worn = whole.map(m => m.get(tile))
        made.setMaterial(worn[0] ?? null)
        if (!extension || !variants) continue
        const mappings = extension.createMappingList()
        worn.forEach((m, i) => {
          if (m) mappings.addMapping(extension.createMapping().setMaterial(m).addVariant(variants[i]!))
        })
        made.setExtension('KHR_materials_variants', mappings)
      }
      continue
    }
    for (const run of mesh.materials) {
      const first = Math.max(run.firstTriangle, object.firstTriangle)
      const end = Math.min(run.firstTriangle + run.triangles, object.firstTriangle + object.triangles)
      if (first >= end) continue
      const made = primitive(own, first - object.firstTriangle, end - object.firstTriangle)
      if (run.name) made.setMaterial(material(run.name))
    }
  }
  const parts = look?.maps?.find(m => m.name === PART_INDEX)
  const keys = look?.keys
  if (parts && keys) {
    scene.setExtras({ partKeys: [...keys] })
    for (const made of document.getRoot().listMeshes())
      for (const primitive of made.listPrimitives())
        primitive.setExtension('EXT_mesh_features', features(document).createIds(keys.length))
  }
  const io = new WebIO().registerExtensions([
    KHRMaterialsDiffuseTransmission,
    KHRMaterialsEmissiveStrength,
    KHRMaterialsVariants,
    MeshFeatures,
  ])
  const how = look?.compression ?? 'none'
  if (how === 'none') return io.writeBinary(document)
  const { compress, compressing } = await import('./compressGlb')
  await compress(document, how)
  return compressing(io).writeBinary(document)
}
