import { encode } from 'fast-png'
import { encodeSrgb } from '../color/convert'
import { Evaluator } from '../evaluate/evaluator'
import type { MeshTables } from '../evaluate/tables'
import type { Kernels } from '../kernels/kernels'
import type { Program } from '../program/lower'
import type { ParamRef } from '../program/ops'
import { plan } from '../program/plan'
import { dilate } from './dilate'
import { rasterizeUvs } from './raster'

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

/**
 * Bakes the result through the UVs into two 8-bit pictures as glTF 2.0 wants them: base color (sRGB), and
 * metallic-roughness (linear; roughness in green, metalness in blue).
 */
export function bakeTextures(kernels: Kernels, tables: MeshTables, program: Program, read: (ref: ParamRef) => number,
  options: BakeOptions): { baseColor: Uint8Array, metallicRoughness: Uint8Array } {
  const { size, dilation, progress, stopped } = options
  const step = (share: number) => {
    if (stopped?.()) throw new Stopped()
    progress?.(share)
  }

  // (1) Which texel is which point of the surface?
  step(0)
  const texels = rasterizeUvs(tables.mesh, size), count = texels.points.count
  step(0.15)

  // (2) All five numbers in one run.
  const { baseColor, metalness, roughness } = program.result
  const evaluator = new Evaluator(kernels, plan(program, [...baseColor, ...roughness, ...metalness]), tables)
  evaluator.refresh(read)
  const columns = Array.from({ length: 5 }, () => new Float32Array(count))
  evaluator.evaluate(texels.points, columns, stopped)
  step(0.5)

  // (3) Into images, islands grown, encoded.
  const image = new Float32Array(size * size * 5), covered = new Uint8Array(size * size)
  for (let i = 0; i < count; i++) {
    const at = texels.texel[i]!
    covered[at] = 1
    for (let k = 0; k < 5; k++) image[at * 5 + k] = columns[k]![i]!
  }
  dilate(image, 5, size, covered, dilation)
  step(0.7)
  const toByte = (x: number) => Math.round(Math.min(1, Math.max(0, x)) * 255)
  const color = new Uint8Array(size * size * 3), packed = new Uint8Array(size * size * 3)
  for (let i = 0; i < size * size; i++) {
    for (let k = 0; k < 3; k++) color[i * 3 + k] = toByte(encodeSrgb(image[i * 5 + k]!))
    packed[i * 3] = 255
    packed[i * 3 + 1] = toByte(image[i * 5 + 3]!)
    packed[i * 3 + 2] = toByte(image[i * 5 + 4]!)
  }
  const png = (data: Uint8Array) => encode({ width: size, height: size, data, depth: 8, channels: 3 })
  const first = png(color)
  step(0.85)
  const second = png(packed)
  step(1)
  return { baseColor: first, metallicRoughness: second }
}
