import { adlerJoined, adlerOf, crcOf, joined, type Adler, type Compressor } from './compress'

export interface PngShape { size: number, channels: 1 | 2 | 3 | 4, depth: 8 | 16, space: 'srgb' | 'linear' }
/** Some rows, compressed: an IDAT chunk, and what joins its checksum with the others'. */
export interface PngBand { chunk: Uint8Array, adler: Adler }

function chunk(type: string, data: Uint8Array): Uint8Array {
  const out = new Uint8Array(12 + data.length), view = new DataView(out.buffer), name = Uint8Array.from(type, c => c.charCodeAt(0))
  view.setUint32(0, data.length)
  out.set(name, 4)
  out.set(data, 8)
  view.setUint32(8 + data.length, crcOf(name, data))
  return out
}

/** Color types of the standard, by channels. */
const TYPES = { 1: 0, 2: 4, 3: 2, 4: 6 } as const

/**
 * Rows of a PNG (W3C, third edition), filtered by difference to the row above (the first to the texel on the left).
 * Bands are compressed each by itself, so threads may share a picture.
 * @param rows texels as they are to be stored, `channels` to a texel: 0 to 255, or 0 to 65535
 */
export function pngBand(rows: Uint8Array | Uint16Array, { size, channels, depth }: Omit<PngShape, 'space'>, compressor: Compressor): PngBand {
  const wide = depth / 8 * channels, stride = wide * size, lines = rows.length / channels / size, out = new Uint8Array(lines * (stride + 1))
  let bytes = rows as Uint8Array
  if (depth === 16) {
    bytes = new Uint8Array(rows.length * 2)
    for (let i = 0; i < rows.length; i++) {
      bytes[i * 2] = rows[i]! >> 8
      bytes[i * 2 + 1] = rows[i]! & 255
    }
  }
  for (let y = 0; y < lines; y++) {
    const from = y * stride, to = y * (stride + 1)
    out[to] = y ? 2 : 1
    const back = y ? stride : wide
    for (let i = 0; i < stride; i++) out[to + 1 + i] = bytes[from + i]! - (y || i >= wide ? bytes[from + i - back]! : 0)
  }
  return { chunk: chunk('IDAT', compressor.blocks(out)), adler: adlerOf(out) }
}

/** What stands before and behind the bands in a PNG file; the checksums are those of all bands in order. */
export function pngEnds({ size, channels, depth, space }: PngShape, bands: readonly Adler[]): [head: Uint8Array, tail: Uint8Array] {
  const head = new Uint8Array(13), view = new DataView(head.buffer)
  view.setUint32(0, size)
  view.setUint32(4, size)
  head.set([depth, TYPES[channels], 0, 0, 0], 8)
  const number = (x: number) => [x >>> 24, x >>> 16 & 255, x >>> 8 & 255, x & 255]
  // sRGB with the intent "perceptual", or a gamma of 1: what the numbers mean is written down.
  const meaning = space === 'srgb' ? [chunk('sRGB', Uint8Array.of(0)), chunk('gAMA', Uint8Array.from(number(45455)))] : [chunk('gAMA', Uint8Array.from(number(100000)))]
  const adler = bands.reduce(adlerJoined, { sum: 1, length: 0 })
  return [
    joined(Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a), chunk('IHDR', head), ...meaning, chunk('tEXt', Uint8Array.from('Software\0Ubblet', c => c.charCodeAt(0))), chunk('IDAT', Uint8Array.of(0x78, 0x9c))),
    joined(chunk('IDAT', Uint8Array.from([3, 0, ...number(adler.sum)])), chunk('IEND', new Uint8Array(0))),
  ]
}
