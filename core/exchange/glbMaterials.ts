import type { Document, Material, Texture } from '@gltf-transform/core'
import {
  EXTTextureWebP,
  KHRMaterialsDiffuseTransmission,
  KHRMaterialsEmissiveStrength,
  type DiffuseTransmission,
  type EmissiveStrength,
} from '@gltf-transform/extensions'
import type { Mesh } from '../mesh/mesh'

const THROUGH = 'KHR_materials_diffuse_transmission'
const WEBP = 'image/webp'
const STRENGTH = 'KHR_materials_emissive_strength'
/** Where a surface has neither pictures nor numbers. */
const PLAIN: NonNullable<GlbSurface['factors']> = { baseColor: [1, 1, 1], metalness: 1, roughness: 1 }

/** Whether a picture's file is a WebP: RIFF, its length, WEBP. */
const isWebp = (bytes: Uint8Array): boolean => String.fromCharCode(...bytes.subarray(8, 12)) === 'WEBP'

/** What a GLB carries of a look on the triangles of one tile. Pictures are files, PNG or WebP. */
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
/** The materials of a glTF document, each picture of them once, whichever variants and tiles have it. */
export class GlbMaterials {
  private readonly own = new Map<string, Material>()
  private readonly textures = new Map<Uint8Array, Texture>()
  private readonly strengths = new Map<number, EmissiveStrength>()

  constructor(private readonly document: Document) {}

  /** A new material. As on the stage, a surface is seen from both sides. */
  private readonly material = (name: string): Material => this.document.createMaterial(name).setDoubleSided(true)

  /** A material of the file, with the numbers that the file has of it, without its pictures. */
  ofFile(name: string, { surfaces }: Mesh): Material {
    const old = this.own.get(name)
    if (old) return old
    const made = this.material(name)
    this.own.set(name, made)
    const known = surfaces?.find(s => s.name === name)
    if (known)
      made
        .setBaseColorFactor([...known.baseColor, 1])
        .setMetallicFactor(known.metalness)
        .setRoughnessFactor(known.roughness)
    return made
  }

  /** A material for a surface of a look. @param colored whether the vertices have the base color */
  ofSurface(title: string, surface: GlbSurface, colored: boolean): Material {
    const { baseColor, metallicRoughness, occluded, normal, opacity, factors = PLAIN } = surface
    const made = this.material(title)
      .setBaseColorFactor(baseColor || colored ? [1, 1, 1, 1] : [...factors.baseColor, 1])
      .setMetallicFactor(metallicRoughness ? 1 : factors.metalness)
      .setRoughnessFactor(metallicRoughness ? 1 : factors.roughness)
    if (baseColor) made.setBaseColorTexture(this.texture(`${title} base color`, baseColor))
    if (metallicRoughness) {
      const packed = this.texture(`${title} occlusion roughness metalness`, metallicRoughness)
      made.setMetallicRoughnessTexture(packed)
      if (occluded) made.setOcclusionTexture(packed)
    }
    if (normal) made.setNormalTexture(this.texture(`${title} normal`, normal))
    this.light(made, title, surface)
    if (surface.through || factors.through) made.setExtension(THROUGH, this.through(title, surface))
    return opacity ? made.setAlphaMode('BLEND') : made
  }

  private texture(title: string, bytes: Uint8Array): Texture {
    const old = this.textures.get(bytes)
    if (old) return old
    const made = this.document
      .createTexture(title)
      .setImage(bytes as Uint8Array<ArrayBuffer>)
      .setMimeType(isWebp(bytes) ? WEBP : 'image/png')
    if (isWebp(bytes)) this.document.createExtension(EXTTextureWebP).setRequired(true)
    this.textures.set(bytes, made)
    return made
  }

  /** The light that a surface gives off, where it gives off any. */
  private light(material: Material, title: string, { emissive, emissiveStrength = 1 }: GlbSurface): void {
    if (!emissive) return
    material.setEmissiveTexture(this.texture(`${title} emissive`, emissive)).setEmissiveFactor([1, 1, 1])
    if (emissiveStrength > 1) material.setExtension(STRENGTH, this.strength(emissiveStrength))
  }
  private strength(times: number): EmissiveStrength {
    const old = this.strengths.get(times)
    if (old) return old
    const extension = this.document.createExtension(KHRMaterialsEmissiveStrength)
    const made = extension.createEmissiveStrength().setEmissiveStrength(times)
    this.strengths.set(times, made)
    return made
  }

  /** The light that passes through a surface that lets some pass. */
  private through(title: string, { through, factors }: GlbSurface): DiffuseTransmission {
    const made = this.document.createExtension(KHRMaterialsDiffuseTransmission).createDiffuseTransmission()
    if (through) {
      const packed = this.texture(`${title} translucency`, through)
      return made
        .setDiffuseTransmissionFactor(1)
        .setDiffuseTransmissionTexture(packed)
        .setDiffuseTransmissionColorTexture(packed)
    }
    const [r, g, b, share] = factors!.through!
    return made.setDiffuseTransmissionFactor(share).setDiffuseTransmissionColorFactor([r, g, b])
  }
}

interface TextureJson {
  source?: number
  extensions?: Record<string, unknown>
}
/**
 * Has all textures of a file refer to WebP as EXT_texture_webp says. The library does so for those that glTF itself
 * refers to, before other extensions bring theirs.
 */
export function referToWebp(json: Record<string, unknown>): void {
  const images = (json.images ?? []) as { mimeType?: string }[]
  for (const texture of (json.textures ?? []) as TextureJson[]) {
    const { source } = texture
    if (source === undefined || images[source]?.mimeType !== WEBP) continue
    delete texture.source
    texture.extensions = { ...texture.extensions, EXT_texture_webp: { source } }
  }
}
