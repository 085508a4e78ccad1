import { Document, WebIO, type Material, type Node } from '@gltf-transform/core'
import { KHRMaterialsEmissiveStrength } from '@gltf-transform/extensions'
import type { Mesh } from '../mesh/mesh'

export interface GlbSurface {
  /** PNG files. */
  baseColor?: Uint8Array
  metallicRoughness?: Uint8Array
  normal?: Uint8Array
  emissive?: Uint8Array
  /** What the emissive picture is to be multiplied by. */
  emissiveStrength?: number
  /** The base color's alpha is to be heeded. */
  opacity?: boolean
  /** Linear base color per vertex, three numbers each: written as `COLOR_0`, which viewers multiply onto the texture. */
  vertexColors?: Float32Array
  /** Used where there is no texture. */
  factors?: { baseColor: [number, number, number], metalness: number, roughness: number }
}

/**
 * Writes a mesh as binary glTF 2.0: one node and one mesh per object, inside the nodes that the file had it in, vertex
 * maps as custom attributes (`_name`). Without a surface the mesh's own materials are written, without pictures; with one, a single material carries it, and a
 * `COLOR_0` that came with the file is kept as `_COLOR_0`, since viewers would multiply it onto the color.
 */
export async function writeGlb(mesh: Mesh, name: string, surface?: GlbSurface): Promise<Uint8Array> {
  const document = new Document(), buffer = document.createBuffer(), scene = document.createScene(name)
  document.getRoot().getAsset().generator = 'Ubblet'
  document.getRoot().setDefaultScene(scene)
  const materials = new Map<string, Material>()
  const material = (key: string) => {
    let m = materials.get(key)
    if (!m) {
      materials.set(key, m = document.createMaterial(key))
      const known = !surface && mesh.surfaces?.find(s => s.name === key)
      if (known) m.setBaseColorFactor([...known.baseColor, 1]).setMetallicFactor(known.metalness).setRoughnessFactor(known.roughness)
    }
    return m
  }
  const whole = surface && material(name)
  if (surface && whole) {
    const { baseColor, metalness, roughness } = surface.factors ?? { baseColor: [1, 1, 1], metalness: 1, roughness: 1 }
    whole.setBaseColorFactor(surface.baseColor || surface.vertexColors ? [1, 1, 1, 1] : [...baseColor, 1])
      .setMetallicFactor(surface.metallicRoughness ? 1 : metalness).setRoughnessFactor(surface.metallicRoughness ? 1 : roughness)
    if (surface.baseColor) whole.setBaseColorTexture(document.createTexture('base color').setImage(surface.baseColor).setMimeType('image/png'))
    if (surface.metallicRoughness) whole.setMetallicRoughnessTexture(document.createTexture('metallic roughness').setImage(surface.metallicRoughness).setMimeType('image/png'))
    if (surface.normal) whole.setNormalTexture(document.createTexture('normal').setImage(surface.normal).setMimeType('image/png'))
    if (surface.emissive) {
      whole.setEmissiveTexture(document.createTexture('emissive').setImage(surface.emissive).setMimeType('image/png')).setEmissiveFactor([1, 1, 1])
      if ((surface.emissiveStrength ?? 1) > 1) whole.setExtension('KHR_materials_emissive_strength', document.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(surface.emissiveStrength!))
    }
    if (surface.opacity) whole.setAlphaMode('BLEND')
  }

  const folders = new Map<string, Node>()
  /** The node of a path of names, made where it is missing. */
  const folder = (path: readonly string[]): Node | undefined => {
    if (!path.length) return undefined
    const key = JSON.stringify(path)
    let node = folders.get(key)
    if (!node) {
      folders.set(key, node = document.createNode(path.at(-1)))
      ;(folder(path.slice(0, -1)) ?? scene).addChild(node)
    }
    return node
  }
  for (const object of mesh.objects) {
    const gltfMesh = document.createMesh(object.name)
    ;(folder(object.parents ?? []) ?? scene).addChild(document.createNode(object.name).setMesh(gltfMesh))
    const from = object.firstVertex, to = from + object.vertices
    const accessor = (type: 'VEC2' | 'VEC3' | 'VEC4' | 'SCALAR', array: Float32Array) =>
      document.createAccessor().setType(type).setArray(array as Float32Array<ArrayBuffer>).setBuffer(buffer)
    const vector = (size: number) => (['SCALAR', 'VEC2', 'VEC3', 'VEC4'] as const)[size - 1]!
    const shared: [string, ReturnType<typeof accessor>][] = [
      ['POSITION', accessor('VEC3', mesh.positions.slice(from * 3, to * 3))],
      ['NORMAL', accessor('VEC3', mesh.normals.slice(from * 3, to * 3))],
    ]
    if (mesh.uvs) shared.push(['TEXCOORD_0', accessor('VEC2', mesh.uvs.slice(from * 2, to * 2))])
    if (surface?.vertexColors) shared.push(['COLOR_0', accessor('VEC3', surface.vertexColors.slice(from * 3, to * 3))])
    for (const map of mesh.maps) {
      const semantic = map.name === 'COLOR_0' && !surface ? 'COLOR_0' : `_${map.name}`
      shared.push([semantic, accessor(vector(map.components), map.values.slice(from * map.components, to * map.components))])
    }
    for (const run of mesh.materials) {
      const first = Math.max(run.firstTriangle, object.firstTriangle)
      const end = Math.min(run.firstTriangle + run.triangles, object.firstTriangle + object.triangles)
      if (first >= end) continue
      if (whole && first > object.firstTriangle) continue
      const last = whole ? object.firstTriangle + object.triangles : end
      const indices = mesh.indices.slice(first * 3, last * 3).map(v => v - from)
      const primitive = document.createPrimitive()
        .setIndices(document.createAccessor().setType('SCALAR').setBuffer(buffer).setArray(object.vertices < 65536 ? Uint16Array.from(indices) : indices as Uint32Array<ArrayBuffer>))
      for (const [semantic, values] of shared) primitive.setAttribute(semantic, values)
      if (whole) primitive.setMaterial(whole)
      else if (run.name) primitive.setMaterial(material(run.name))
      gltfMesh.addPrimitive(primitive)
    }
  }
  return new WebIO().registerExtensions([KHRMaterialsEmissiveStrength]).writeBinary(document)
}
