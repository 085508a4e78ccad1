import { SRGBColorSpace, Vector3, type Material, type Texture } from 'three'
import type { GLTF } from 'three/examples/jsm/loaders/GLTFLoader.js'
import * as z from 'zod'

const NAME = 'KHR_materials_diffuse_transmission'
const ONE: [number, number, number] = [1, 1, 1]
const pictureSchema = z.object({ index: z.number().int().nonnegative() }).optional()
/** The extension of a material, with the standard's defaults. */
const extensionSchema = z.object({
  diffuseTransmissionFactor: z.number().default(0),
  diffuseTransmissionTexture: pictureSchema,
  diffuseTransmissionColorFactor: z.tuple([z.number(), z.number(), z.number()]).default(ONE),
  diffuseTransmissionColorTexture: pictureSchema,
})

/** Diffuse light from behind, of a material that has it. */
export interface Transmission {
  factor: number
  /** Its share, in the alpha. */
  share?: Texture
  color: Vector3
  colors?: Texture
}

/** What materials of a file say of light from behind, which the loader leaves out. */
export async function transmissionsOf({ parser }: GLTF): Promise<(material: Material) => Transmission | undefined> {
  const materials = (parser.json.materials ?? []) as { extensions?: Record<string, unknown> }[]
  const read = async (extension: unknown): Promise<Transmission> => {
    const found = extensionSchema.parse(extension)
    const picture = async (at: { index: number } | undefined): Promise<Texture | undefined> => {
      if (!at) return undefined
      const texture = ((await parser.getDependency('texture', at.index)) as Texture).clone()
      texture.colorSpace = SRGBColorSpace
      return texture
    }
    const share = await picture(found.diffuseTransmissionTexture)
    const colors = await picture(found.diffuseTransmissionColorTexture)
    return {
      factor: found.diffuseTransmissionFactor,
      color: new Vector3(...found.diffuseTransmissionColorFactor),
      ...(share && { share }),
      ...(colors && { colors }),
    }
  }
  const all = await Promise.all(materials.map(m => m.extensions?.[NAME] && read(m.extensions[NAME])))
  return material => all[parser.associations.get(material)?.materials ?? -1] as Transmission | undefined
}

/** Declares what the shader below reads. */
export const TRANSMISSION_PARS = `
uniform float ubThroughFactor;
uniform vec3 ubThroughColor;
uniform sampler2D ubThroughShare;
uniform sampler2D ubThroughColors;`

/** Mixes light from behind into that from the front, as the extension says. Pictures lie as the base color's do. */
export const TRANSMISSION = `
{
  float ubShare = ubThroughFactor * (1.0 - metalnessFactor);
  vec3 ubColor = ubThroughColor;
  #ifdef USE_MAP
  ubShare *= texture2D(ubThroughShare, vMapUv).a;
  ubColor *= texture2D(ubThroughColors, vMapUv).rgb;
  #endif
  reflectedLight.indirectDiffuse = mix(reflectedLight.indirectDiffuse, getIBLIrradiance(-normal) * RECIPROCAL_PI * ubColor, ubShare);
}`
