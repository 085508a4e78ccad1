import type { Texels } from '../kernels/texels'
import { adlerJoined, crcOf, joined, type Adler, type Compressor } from './compress'

export interface PngShape {
  size: number
  channels: 1 | 2 | 3 | 4
  depth: 8 | 16
  space: 'srgb' | 'linear'
}
/** Some rows, compressed: an IDAT chunk, and what joins its checksum with the others'. */
export interface PngBand {
  chunk: Uint8Array
  adler: Adler
}

function chunk(type: string, data: Uint8Array): Uint8Array {
  const out = new Uint8Array(12 + data.length)
  const view = new DataView(out.buffer)
  const name = Uint8Array.from(type, c => c.charCodeAt(0))
  view.setUint32(0, data.length)
  out.set(name, 4)
  out.set(data, 8)
  view.setUint32(8 + data.length, crcOf(name, data))
  return out
}

/** Color types of the standard, by channels. */
const TYPES = { 1: 0, 2: 4, 3: 2, 4: 6 } as const

/**
 * How a column of the kernels' memory becomes numbers of a PNG: `value * scale + shift`, held between 0 and 1, along
 * the curve of sRGB where `curved`.
 */
export interface PngLane {
  column: number
  scale: number
  shift: number
  curved: boolean
}

/**
 * Rows of a PNG (W3C, third edition), filtered by difference to the row above (the first to the texel on the left).
 * Bands are compressed each by itself, so threads may share a picture.
 * @param lanes one for each channel
 * @param count texels of the band
 * @param grains number of the band's first texel in the picture, where the rounding is to be spread
 */
export function pngBand(
  texels: Texels,
  lanes: readonly PngLane[],
  count: number,
  { size, depth }: Pick<PngShape, 'size' | 'depth'>,
  compressor: Compressor,
  grains?: number,
): PngBand {
  const deep = depth / 8
  const wide = deep * lanes.length
  const stride = wide * size
  const lines = count / size
  const length = lines * (stride + 1)
  const mark = texels.mark()
  const out = texels.take(length)
  let line = texels.take(stride + wide) + wide
  let above = texels.take(stride + wide) + wide
  const bytes = texels.bytes(out, length)
  texels.bytes(line - wide, wide).fill(0)
  const sum = texels.timed(run => {
    for (let y = 0; y < lines; y++) {
      lanes.forEach(({ column, scale, shift, curved }, k) =>
        run.pack(
          line + k * deep,
          wide,
          Number(depth === 16),
          column + y * size * 4,
          size,
          scale,
          shift,
          Number(curved),
          grains === undefined ? -1 : grains + y * size,
          k,
        ),
      )
      const to = out + y * (stride + 1)
      bytes[to - out] = y ? 2 : 1
      run.less(to + 1, line, y ? above : line - wide, stride)
      ;[line, above] = [above, line]
    }
    return run.adler(out, length) >>> 0
  })
  const made = { chunk: chunk('IDAT', compressor.blocks(bytes)), adler: { sum, length } }
  texels.release(mark)
  return made
}

/** What stands before and behind the bands in a PNG file; the checksums are those of all bands in order. */
export function pngEnds(
  { size, channels, depth, space }: PngShape,
  bands: readonly Adler[],
): [head: Uint8Array, tail: Uint8Array] {
  const adler = bands.reduce(adlerJoined, { sum: 1, length: 0 })
  return [
    joined(beginOf({ width: size, height: size, channels, depth, space }), chunk('IDAT', Uint8Array.of(0x78, 0x9c))),
    joined(chunk('IDAT', Uint8Array.from([3, 0, ...numberOf(adler.sum)])), chunk('IEND', new Uint8Array(0))),
  ]
}

const numberOf = (x: number): number[] => [x >>> 24, (x >>> 16) & 255, (x >>> 8) & 255, x & 255]

/** All of a PNG file that stands before its pixels. */
function beginOf({
  width,
  height,
  channels,
  depth,
  space,
}: Omit<PngShape, 'size'> & { width: number; height: number }): Uint8Array {
  const head = Uint8Array.from([...numberOf(width), ...numberOf(height), depth, TYPES[channels], 0, 0, 0])
  // sRGB with the intent "perceptual", or a gamma of 1: what the numbers mean is written down.
  const meaning =
    space === 'srgb'
      ? [chunk('sRGB', Uint8Array.of(0)), chunk('gAMA', Uint8Array.from(numberOf(45455)))]
      : [chunk('gAMA', Uint8Array.from(numberOf(100000)))]
  return joined(
    Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a),
    chunk('IHDR', head),
    ...meaning,
    chunk(
      'tEXt',
      Uint8Array.from('Software\0Ubblet', c => c.charCodeAt(0)),
    ),
  )
}

/**
 * A picture to be looked at, as a whole PNG file.
 * @param data bytes along the curve of sRGB, row by row from the top, three or four a pixel; the fourth is opacity
 */
export function pngOf(
  { width, height, channels, data }: { width: number; height: number; channels: 3 | 4; data: ArrayLike<number> },
  compressor: Compressor,
): Uint8Array {
  const stride = width * channels
  const lines = new Uint8Array(height * (stride + 1))
  for (let y = 0, to = 0; y < height; y++) {
    // Each row as the difference to the one above.
    lines[to++] = 2
    for (let i = y * stride; i < (y + 1) * stride; i++) lines[to++] = data[i]! - (y ? data[i - stride]! : 0)
  }
  return joined(
    beginOf({ width, height, channels, depth: 8, space: 'srgb' }),
    chunk('IDAT', compressor.zlib(lines)),
    chunk('IEND', new Uint8Array(0)),
  )
}
