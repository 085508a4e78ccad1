import type { Texels } from '../kernels/texels'
import { joined, type Compressor } from './compress'

export interface ExrShape {
  width: number
  height: number
  channels: readonly string[]
  pixel: 'half' | 'float'
  /**
   * Where the picture lies on the UVs: its left and upper edge in texels of a tile, and how many a tile has along a
   * side.
   */
  window?: { left: number; top: number; tile: number }
}

/** Lines in a compressed block, as the format fixes it for ZIP. */
export const EXR_LINES = 16

const int = (x: number): number[] => [x & 255, (x >>> 8) & 255, (x >>> 16) & 255, x >>> 24]
/**
 * Blocks of an OpenEXR picture, each of up to 16 lines, compressed by ZIP.
 * @param columns addresses in the kernels' memory, one per channel in the order of `channels`
 * @param count texels of the band, all of its lines
 * @param row number of the first line in the picture
 * @returns the blocks end to end, and the size of each
 */
export function exrBand(
  texels: Texels,
  columns: readonly number[],
  count: number,
  { width, channels, pixel }: Omit<ExrShape, 'height'>,
  row: number,
  compressor: Compressor,
): { bytes: Uint8Array; sizes: number[] } {
  // Channels are stored in the order of their names.
  const order = channels.map((_, i) => i).sort((a, b) => (channels[a]! < channels[b]! ? -1 : 1))
  const lines = count / width
  const wide = pixel === 'half' ? 2 : 4
  const most = EXR_LINES * width * channels.length * wide
  const mark = texels.mark()
  const raw = texels.take(most)
  const apart = texels.take(most)
  const different = texels.take(most)
  const blocks: Uint8Array[] = []
  for (let from = 0; from < lines; from += EXR_LINES) {
    const n = Math.min(EXR_LINES, lines - from)
    const length = n * width * channels.length * wide
    texels.timed(run => {
      let at = raw
      for (let y = from; y < from + n; y++) {
        for (const c of order) {
          const column = columns[c]! + y * width * 4
          if (wide === 2) run.halves(at, column, width)
          else texels.floats(at, width).set(texels.floats(column, width))
          at += width * wide
        }
      }
      // Low and high bytes apart, then differences to the byte before, as the format has it.
      run.apart(apart, raw, length)
      run.differences(different, apart, length)
    })
    const packed = compressor.zlib(texels.bytes(different, length))
    const data = packed.length < length ? packed : texels.bytes(raw, length)
    blocks.push(joined(Uint8Array.from([...int(row + from), ...int(data.length)]), data))
  }
  texels.release(mark)
  return { bytes: joined(...blocks), sizes: blocks.map(b => b.length) }
}

/**
 * What stands before the blocks in an OpenEXR file (version 2, scan lines), from the sizes of all of them. Colors are
 * linear, Rec. 709.
 */
export function exrHead({ width, height, channels, pixel, window }: ExrShape, blocks: readonly number[]): Uint8Array {
  const head: number[] = [0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0]
  const text = (s: string) => [...s].map(c => c.charCodeAt(0)).concat(0)
  const float = (x: number) => {
    const bits = new DataView(new ArrayBuffer(4))
    bits.setFloat32(0, x, true)
    return [0, 1, 2, 3].map(k => bits.getUint8(k))
  }
  const attribute = (name: string, type: string, data: number[]) =>
    head.push(...text(name), ...text(type), ...int(data.length), ...data)
  const boxAt = (left: number, top: number, wide: number, tall: number) =>
    [left, top, left + wide - 1, top + tall - 1].flatMap(int)
  const data = boxAt(window?.left ?? 0, window?.top ?? 0, width, height)
  const display = window ? boxAt(0, 0, window.tile, window.tile) : data
  attribute('channels', 'chlist', [
    ...[...channels]
      .sort()
      .flatMap(c => [...text(c), ...int(pixel === 'half' ? 1 : 2), 0, 0, 0, 0, ...int(1), ...int(1)]),
    0,
  ])
  attribute('chromaticities', 'chromaticities', [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329].flatMap(float))
  attribute('compression', 'compression', [3])
  attribute('dataWindow', 'box2i', data)
  attribute('displayWindow', 'box2i', display)
  attribute('lineOrder', 'lineOrder', [0])
  attribute('pixelAspectRatio', 'float', float(1))
  attribute('screenWindowCenter', 'v2f', [...float(0), ...float(0)])
  attribute('screenWindowWidth', 'float', float(1))
  attribute(
    'software',
    'string',
    [...'Ubblet'].map(c => c.charCodeAt(0)),
  )
  head.push(0)
  const table = new Uint8Array(blocks.length * 8)
  const view = new DataView(table.buffer)
  let offset = head.length + table.length
  blocks.forEach((size, i) => {
    view.setBigUint64(i * 8, BigInt(offset), true)
    offset += size
  })
  return joined(Uint8Array.from(head), table)
}

/** A whole EXR file. @param data numbers of each channel, in the order of `channels`, row by row from the top */
export function exrFile(
  texels: Texels,
  data: readonly Float32Array[],
  shape: ExrShape,
  compressor: Compressor,
): Uint8Array {
  const count = shape.width * shape.height
  const mark = texels.mark()
  const columns = data.map(() => texels.take(count * 4))
  columns.forEach((column, k) => texels.floats(column, count).set(data[k]!))
  const { bytes, sizes } = exrBand(texels, columns, count, shape, shape.window?.top ?? 0, compressor)
  texels.release(mark)
  return joined(exrHead(shape, sizes), bytes)
}

/** Light as a whole EXR file of floats. @param light linear, three numbers a pixel, row by row from the top */
export function exrOfLight(
  texels: Texels,
  light: ArrayLike<number>,
  width: number,
  height: number,
  compressor: Compressor,
): Uint8Array {
  const data = [0, 1, 2].map(k => Float32Array.from({ length: width * height }, (_, i) => light[i * 3 + k]!))
  return exrFile(texels, data, { width, height, channels: ['R', 'G', 'B'], pixel: 'float' }, compressor)
}
