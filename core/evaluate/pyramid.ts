import { encodeSrgb } from '../color/convert'
import type { PictureReading } from '../program/ops'
import { LINEAR, RAW, readPicture, type Picture } from './pictures'

/** Pictures of half the size each, down to one texel, by the data that they are made of and how that is meant. */
const known = new WeakMap<Picture['data'], { linear?: readonly Picture[]; encoded?: readonly Picture[] }>()

/**
 * A picture, and after it ever smaller ones, each half as wide and high as the one before, down to one texel: what is
 * seen of it from afar. Every texel is the mean of those that it stands for, by area, of what their numbers mean.
 * @param linear whether the numbers of a picture of bytes are data, rather than colors as sRGB encodes them
 */
export function pyramidOf(picture: Picture, linear: boolean): readonly Picture[] {
  const own = known.get(picture.data) ?? {}
  const which = linear || picture.data instanceof Float32Array ? 'linear' : 'encoded'
  const levels = own[which] ?? levelsOf(picture, which === 'linear')
  known.set(picture.data, { ...own, [which]: levels })
  return levels
}

function levelsOf(picture: Picture, linear: boolean): readonly Picture[] {
  const { lanes = 4, data } = picture
  const levels = [picture]
  let numbers = data instanceof Float32Array ? data : decoded(data, linear)
  for (let { width, height } = picture; width > 1 || height > 1;) {
    numbers = halved(halved(numbers, height, width, lanes), 1, height, Math.max(1, width >> 1) * lanes)
    width = Math.max(1, width >> 1)
    height = Math.max(1, height >> 1)
    levels.push({ ...picture, width, height, data: data instanceof Float32Array ? numbers : encoded(numbers, linear) })
  }
  return levels
}

/**
 * Rows of half as many texels, each the mean of the two that it stands for, or of parts of three where a row is odd.
 * @param rows how many of them
 * @param length texels in each
 * @param lanes numbers to a texel
 */
function halved(data: Float32Array, rows: number, length: number, lanes: number): Float32Array {
  const half = Math.max(1, length >> 1)
  const out = new Float32Array(rows * half * lanes)
  // Of an odd row, each new texel is as wide as (2 half + 1) / half old ones.
  const odd = length > 1 && length % 2 === 1
  for (let row = 0; row < rows; row++) {
    const from = row * length * lanes
    const to = row * half * lanes
    for (let x = 0; x < half; x++) {
      const first = odd ? (half - x) / length : 0.5
      const last = odd ? (x + 1) / length : 0
      const middle = 1 - first - last
      for (let lane = 0; lane < lanes; lane++) {
        const at = from + 2 * x * lanes + lane
        let mean = data[at]!
        if (length > 1) mean = mean * first + data[at + lanes]! * middle
        if (odd) mean += data[at + 2 * lanes]! * last
        out[to + x * lanes + lane] = mean
      }
    }
  }
  return out
}

/** What bytes mean, four lanes to a texel; the last one, opacity, is data in any case. */
function decoded(bytes: Uint8Array | Uint8ClampedArray, linear: boolean): Float32Array {
  const out = new Float32Array(bytes.length)
  const table = linear ? RAW : LINEAR
  for (let i = 0; i < bytes.length; i++) out[i] = i % 4 === 3 ? RAW[bytes[i]!]! : table[bytes[i]!]!
  return out
}

/** The bytes that mean some numbers from 0 to 1. */
function encoded(numbers: Float32Array, linear: boolean): Uint8Array {
  const out = new Uint8Array(numbers.length)
  for (let i = 0; i < numbers.length; i++)
    out[i] = linear || i % 4 === 3 ? Math.round(255 * numbers[i]!) : ENCODED[Math.round(numbers[i]! * STEPS)]!
  return out
}

/** Steps between black and white, by which an encoded color is looked up. */
const STEPS = 4096
const ENCODED = Uint8Array.from({ length: STEPS + 1 }, (_, i) => Math.round(255 * encodeSrgb(i / STEPS)))

/**
 * Reads a picture as {@link readPicture} does, over a place rather than at one: between the two of its smaller pictures
 * whose texels are about as large ("Pyramidal Parametrics", Williams 1983).
 * @param alongU how wide the place is along u, in the same unit, and `alongV` along v
 */
export function readOver(
  picture: Picture,
  channel: number,
  reading: PictureReading,
  u: number,
  v: number,
  alongU: number,
  alongV: number,
): number {
  const [, , wide, tall] = picture.covers ?? [0, 0, 1, 1]
  const texels = Math.max((Math.abs(alongU) / wide) * picture.width, (Math.abs(alongV) / tall) * picture.height)
  if (!(texels > 1)) return readPicture(picture, channel, reading, u, v)
  const levels = pyramidOf(picture, reading.linear)
  const level = Math.min(levels.length - 1, Math.log2(texels))
  const below = Math.floor(level)
  const fine = readPicture(levels[below]!, channel, reading, u, v)
  if (below === level) return fine
  return fine + (readPicture(levels[below + 1]!, channel, reading, u, v) - fine) * (level - below)
}
