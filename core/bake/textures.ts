import { encode } from 'fast-png'
import { encodeSrgb } from '../color/convert'
import { sampler } from '../evaluate/sampler'
import type { MeshTables } from '../evaluate/tables'
import type { Kernels } from '../kernels/kernels'
import type { ParamReader, Program } from '../program/lower'
import { dilate } from './dilate'
import { rasterizeUvs } from './raster'
import { heightSlopes, tangentNormals } from './relief'

export interface BakeOptions {
  size: number
  /** Rings of texels filled in beyond the islands' borders. */
  dilation: number
  progress?: (share: number) => void
  stopped?: () => boolean
}
export const BAKE_SIZES = [512, 1024, 2048] as const
export const BAKE_DEFAULTS: BakeOptions = { size: 1024, dilation: 8 }

export class Stopped extends Error {
  constructor() { super('Stopped.') }
}

/** PNG files of 8 bits as glTF 2.0 wants them. What the look does not set, or is the same everywhere, is left out. */
export interface Textures {
  /** sRGB; with opacity in alpha where the look sets it. */
  baseColor: Uint8Array
  /** Linear; roughness in green, metalness in blue. */
  metallicRoughness: Uint8Array
  /** Tangent space, from the height. */
  normal?: Uint8Array
  /** sRGB, divided by `emissiveStrength`. */
  emissive?: Uint8Array
  emissiveStrength: number
  opacity: boolean
}

/** Bakes the result through the UVs. */
export function bakeTextures(kernels: Kernels, tables: MeshTables, program: Program, read: ParamReader, options: BakeOptions): Textures {
  const { size, dilation, progress, stopped } = options, { sets, result } = program
  const step = (share: number) => {
    if (stopped?.()) throw new Stopped()
    progress?.(share)
  }

  // (1) Which texel is which point of the surface?
  step(0)
  const texels = rasterizeUvs(tables.mesh, size), { points } = texels, count = points.count
  step(0.15)

  // (2) All numbers in one run; the height three times, to know its slope.
  const opacity = sets.has('opacity'), emits = sets.has('emission'), lanes = [...result.baseColor, ...result.roughness, ...result.metalness, ...opacity ? result.opacity : [], ...emits ? result.emission : []]
  const sample = sampler(kernels, tables, program, read), columns = sample(lanes)(points, stopped)
  step(0.45)
  const height = sets.has('height') ? sample(result.height) : undefined, normals = height && tangentNormals(tables, points, heightSlopes(tables, points, where => height(where, stopped)[0]!))
  step(0.6)

  // (3) Into images, islands grown, encoded.
  const width = lanes.length + (normals ? 3 : 0), image = new Float32Array(size * size * width), covered = new Uint8Array(size * size)
  for (let i = 0; i < count; i++) {
    const texel = texels.texel[i]!
    covered[texel] = 1
    for (let k = 0; k < lanes.length; k++) image[texel * width + k] = columns[k]![i]!
    if (normals) for (let k = 0; k < 3; k++) image[texel * width + lanes.length + k] = normals[i * 3 + k]!
  }
  dilate(image, width, size, covered, dilation)
  step(0.7)
  const toByte = (x: number) => Math.round(Math.min(1, Math.max(0, x)) * 255)
  /** A picture from the lanes of the image, or from functions of a texel's first lane. */
  const picture = (channels: 3 | 4, of: (at: number, k: number) => number): Uint8Array => {
    const data = new Uint8Array(size * size * channels)
    for (let i = 0; i < size * size; i++) for (let k = 0; k < channels; k++) data[i * channels + k] = toByte(of(i * width, k))
    return encode({ width: size, height: size, data, depth: 8, channels })
  }
  const first = emits ? 5 + Number(opacity) : 0
  let strongest = 1
  if (emits) for (let k = first; k < first + 3; k++) strongest = columns[k]!.reduce((m, x) => Math.max(m, x), strongest)
  const textures: Textures = {
    opacity, emissiveStrength: strongest,
    baseColor: picture(opacity ? 4 : 3, (at, k) => k === 3 ? image[at + 5]! : encodeSrgb(image[at + k]!)),
    metallicRoughness: picture(3, (at, k) => k === 0 ? 1 : image[at + 2 + k]!),
  }
  step(0.85)
  if (normals) textures.normal = picture(3, (at, k) => covered[at / width] || image[at + lanes.length + 2]! > 0 ? image[at + lanes.length + k]! * 0.5 + 0.5 : [0.5, 0.5, 1][k]!)
  if (emits) textures.emissive = picture(3, (at, k) => encodeSrgb(Math.max(0, image[at + first + k]!) / strongest))
  step(1)
  return textures
}
