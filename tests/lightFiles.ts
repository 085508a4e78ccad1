import { zlibSync } from 'fflate'
import { exrOfLight } from '#core/bake/exr'
import type { Surroundings } from '#core/trace/light'
import { kernels } from './helpers'

const zlib = (bytes: Uint8Array): Uint8Array => zlibSync(bytes)

/** A picture of light as an OpenEXR file. */
export const exrFile = ({ width, height, data }: Surroundings): Uint8Array<ArrayBuffer> =>
  exrOfLight(kernels.texels, data, width, height, { zlib, blocks: zlib }) as Uint8Array<ArrayBuffer>

/**
 * The same as Radiance HDR, without run lengths (G. Ward, "Real Pixels", Graphics Gems II): three mantissas of eight
 * bits and their common exponent to a pixel. Pictures wider than 7 pixels would be read as packed by newer readers
 * where they begin with 2, 2.
 */
export function hdrFile({ width, height, data }: Surroundings): Uint8Array<ArrayBuffer> {
  const head = new TextEncoder().encode(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${height} +X ${width}\n`)
  const out = new Uint8Array(head.length + width * height * 4)
  out.set(head)
  for (let i = 0; i < width * height; i++) {
    const color = data.subarray(i * 3, i * 3 + 3)
    const most = Math.max(...color)
    if (most < 1e-32) continue
    const exponent = Math.floor(Math.log2(most)) + 1
    for (let k = 0; k < 3; k++) out[head.length + i * 4 + k] = Math.floor((color[k]! * 256) / 2 ** exponent)
    out[head.length + i * 4 + 3] = exponent + 128
  }
  return out
}

/** Dim surroundings with one bright pixel. @param bright its column, row and color */
export function lampIn(
  width: number,
  height: number,
  [x, y, color]: [number, number, [number, number, number]],
): Surroundings {
  const data = new Float32Array(width * height * 3).fill(0.0625)
  data.set(color, (y * width + x) * 3)
  return { width, height, data }
}
