import { decodeSrgb, encodeSrgb } from '../color/convert'
import type { PictureReading } from '../program/ops'
import { readPicture, type Picture } from './pictures'

const DECODED = Float32Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255))
const RAW = Float32Array.from({ length: 256 }, (_, i) => i / 255)

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
  let levels = own[which]
  if (!levels) {
    const made = [picture]
    for (let last = picture; last.width > 1 || last.height > 1; made.push(last)) last = halved(last, which === 'linear')
    levels = made
    known.set(picture.data, { ...own, [which]: levels })
  }
  return levels
}

/** Which texels of a row of `n` make up each of a row of half as many, and by how much: two, or three of an odd row. */
function shares(n: number): { from: number; weights: readonly number[] }[] {
  const half = Math.max(1, n >> 1)
  return Array.from({ length: half }, (_, i) => {
    const [start, end] = [(i * n) / half, ((i + 1) * n) / half]
    const from = Math.floor(start)
    const weights: number[] = []
    for (let k = from; k < end; k++) weights.push((Math.min(end, k + 1) - Math.max(start, k)) / (end - start))
    return { from, weights }
  })
}

function halved({ width, height, data, lanes = 4, ...rest }: Picture, linear: boolean): Picture {
  const across = shares(width)
  const down = shares(height)
  const bytes = data instanceof Float32Array ? undefined : data
  const out = bytes
    ? new Uint8Array(across.length * down.length * lanes)
    : new Float32Array(across.length * down.length * lanes)
  down.forEach((rows, y) =>
    across.forEach((columns, x) => {
      for (let lane = 0; lane < lanes; lane++) {
        const table = linear || lane === 3 ? RAW : DECODED
        let sum = 0
        rows.weights.forEach((high, j) =>
          columns.weights.forEach((wide, i) => {
            const value = data[((rows.from + j) * width + columns.from + i) * lanes + lane]!
            sum += high * wide * (bytes ? table[value]! : value)
          }),
        )
        const at = (y * across.length + x) * lanes + lane
        if (!bytes) out[at] = sum
        else out[at] = Math.round(255 * (table === RAW ? sum : encodeSrgb(sum)))
      }
    }),
  )
  return { ...rest, width: across.length, height: down.length, data: out, ...(lanes === 1 && { lanes }) }
}

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
