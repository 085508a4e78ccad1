import { joined, type Compressor } from './compress'

export interface ExrShape { width: number, height: number, channels: readonly string[], pixel: 'half' | 'float' }

/** Lines in a compressed block, as the format fixes it for ZIP. */
export const EXR_LINES = 16

const int = (x: number): number[] => [x & 255, x >>> 8 & 255, x >>> 16 & 255, x >>> 24]
const bits = new DataView(new ArrayBuffer(4))
/** A number as a 16-bit float (IEEE 754), to the nearest, ties to even; beyond 65504 infinite. */
export function halfOf(x: number): number {
  bits.setFloat32(0, x)
  const all = bits.getUint32(0), sign = all >>> 16 & 0x8000, exponent = (all >>> 23 & 255) - 112, fraction = all & 0x7fffff
  if (exponent === 143) return sign | 0x7c00 | (fraction ? 0x200 : 0)
  if (exponent >= 31) return sign | 0x7c00
  if (exponent > 0) {
    const low = fraction & 0x1fff, half = sign | exponent << 10 | fraction >>> 13
    // A carry goes into the exponent, and from the largest number into infinity, as it should.
    return half + Number(low > 0x1000 || (low === 0x1000 && (half & 1) === 1))
  }
  if (exponent < -10) return sign
  const full = fraction | 0x800000, shift = 14 - exponent, half = sign | full >>> shift, rest = full & ((1 << shift) - 1), middle = 1 << (shift - 1)
  return half + Number(rest > middle || (rest === middle && (half & 1) === 1))
}

/**
 * Blocks of an OpenEXR picture, each of up to 16 lines, compressed by ZIP.
 * @param lanes one column per channel, in the order of `channels`, all lines of the band
 * @param row number of the first line in the picture
 * @returns the blocks end to end, and the size of each
 */
export function exrBand(lanes: readonly Float32Array[], { width, channels, pixel }: Omit<ExrShape, 'height'>, row: number, compressor: Compressor): { bytes: Uint8Array, sizes: number[] } {
  // Channels are stored in the order of their names.
  const order = channels.map((_, i) => i).sort((a, b) => channels[a]! < channels[b]! ? -1 : 1), lines = lanes[0]!.length / width, wide = pixel === 'half' ? 2 : 4
  const blocks: Uint8Array[] = []
  for (let from = 0; from < lines; from += EXR_LINES) {
    const n = Math.min(EXR_LINES, lines - from), raw = new Uint8Array(n * width * channels.length * wide), view = new DataView(raw.buffer)
    let at = 0
    for (let y = from; y < from + n; y++) {
      for (const c of order) {
        const lane = lanes[c]!
        for (let x = 0; x < width; x++, at += wide) {
          if (wide === 2) view.setUint16(at, halfOf(lane[y * width + x]!), true)
          else view.setFloat32(at, lane[y * width + x]!, true)
        }
      }
    }
    // Low and high bytes apart, then differences to the byte before, as the format has it.
    const apart = new Uint8Array(raw.length), middle = (raw.length + 1) >> 1
    for (let i = 0; i < raw.length; i++) apart[i & 1 ? middle + (i >> 1) : i >> 1] = raw[i]!
    for (let i = raw.length - 1; i > 0; i--) apart[i] = apart[i]! - apart[i - 1]! + 128
    const packed = compressor.zlib(apart)
    const data = packed.length < raw.length ? packed : raw
    blocks.push(joined(Uint8Array.from([...int(row + from), ...int(data.length)]), data))
  }
  return { bytes: joined(...blocks), sizes: blocks.map(b => b.length) }
}

/** What stands before the blocks in an OpenEXR file (version 2, scan lines), from the sizes of all of them. Colors are linear, Rec. 709. */
export function exrHead({ width, height, channels, pixel }: ExrShape, blocks: readonly number[]): Uint8Array {
  const head: number[] = [0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0], text = (s: string) => [...s].map(c => c.charCodeAt(0)).concat(0)
  const float = (x: number) => {
    bits.setFloat32(0, x, true)
    return [0, 1, 2, 3].map(k => bits.getUint8(k))
  }
  const attribute = (name: string, type: string, data: number[]) => head.push(...text(name), ...text(type), ...int(data.length), ...data)
  const box = [...int(0), ...int(0), ...int(width - 1), ...int(height - 1)]
  attribute('channels', 'chlist', [...[...channels].sort().flatMap(c => [...text(c), ...int(pixel === 'half' ? 1 : 2), 0, 0, 0, 0, ...int(1), ...int(1)]), 0])
  attribute('chromaticities', 'chromaticities', [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329].flatMap(float))
  attribute('compression', 'compression', [3])
  attribute('dataWindow', 'box2i', box)
  attribute('displayWindow', 'box2i', box)
  attribute('lineOrder', 'lineOrder', [0])
  attribute('pixelAspectRatio', 'float', float(1))
  attribute('screenWindowCenter', 'v2f', [...float(0), ...float(0)])
  attribute('screenWindowWidth', 'float', float(1))
  attribute('software', 'string', [...'Ubblet'].map(c => c.charCodeAt(0)))
  head.push(0)
  const table = new Uint8Array(blocks.length * 8), view = new DataView(table.buffer)
  let offset = head.length + table.length
  blocks.forEach((size, i) => {
    view.setBigUint64(i * 8, BigInt(offset), true)
    offset += size
  })
  return joined(Uint8Array.from(head), table)
}

/** Light as a whole EXR file of floats. @param light linear, three numbers a pixel, row by row from the top */
export function exrOfLight(light: ArrayLike<number>, width: number, height: number, compressor: Compressor): Uint8Array {
  const lanes = [0, 1, 2].map(k => Float32Array.from({ length: width * height }, (_, i) => light[i * 3 + k]!)), channels = ['R', 'G', 'B'], shape = { width, height, channels, pixel: 'float' as const }
  const { bytes, sizes } = exrBand(lanes, shape, 0, compressor)
  return joined(exrHead(shape, sizes), bytes)
}
