import { decodeSrgb } from '../color/convert'
import type { Beyond } from '../mesh/mesh'
import type { PictureReading } from '../program/ops'

/**
 * A picture of the project, row by row from the top: RGBA bytes as they are in the file, or numbers, which are linear.
 */
export interface Picture {
  name: string
  width: number
  height: number
  data: Uint8ClampedArray | Uint8Array | Float32Array
  /** Numbers to a texel: four where it is absent; one alone stands for red, green and blue. */
  lanes?: 1 | 4
  /**
   * Where it lies on the UVs (v downward): left edge, upper edge, width and height, in tiles. Otherwise it is one tile
   * at 0, 0.
   */
  covers?: [u: number, v: number, across: number, down: number]
}

/** Whether a file is one of numbers, by its name. */
export const isExr = (name: string): boolean => /\.exr$/i.test(name)

/** A picture that is looked at, rather than one of numbers. */
export const isSeen = (picture: Picture): boolean => !(picture.data instanceof Float32Array)

/** The longest side of a picture in use; larger ones are made smaller when they are read. */
export const PICTURE_LIMIT = 2048

/** A PNG as it is decoded: `depth` bits to a number. */
export interface DecodedPng {
  width: number
  height: number
  data: ArrayLike<number>
  channels: number
  depth: number
}
/** Whether a file is a PNG of 16 bits to a number, by its head. */
export const isFine = (bytes: Uint8Array): boolean =>
  [137, 80, 78, 71].every((x, i) => bytes[i] === x) && bytes[24] === 16

/** A decoded PNG with all of its bits: RGBA numbers of 0 to 1, as they are in the file. */
export function fineOf({ width, height, data, channels, depth }: DecodedPng): Omit<Picture, 'name'> {
  const most = 2 ** depth - 1
  const out = new Float32Array(width * height * 4).fill(1)
  for (let i = 0; i < width * height; i++)
    for (let k = 0; k < (channels % 2 ? 3 : 4); k++) {
      const color = channels > 2 ? k : 0
      out[i * 4 + k] = data[i * channels + (k === 3 ? channels - 1 : color)]! / most
    }
  return { width, height, data: out }
}

/** A decoded PNG, of any number of channels and 8 or 16 bits, as RGBA bytes. */
export function rgbaOf({ width, height, data, channels, depth }: DecodedPng): {
  width: number
  height: number
  data: Uint8Array
} {
  const out = new Uint8Array(width * height * 4)
  for (let i = 0; i < width * height; i++) {
    for (let k = 0; k < 4; k++) {
      const isColored = channels > 2
      const hasAlpha = channels % 2 === 0
      const color = isColored ? k : 0
      const from = k === 3 ? channels - 1 : color
      const value = k === 3 && !hasAlpha ? 2 ** depth - 1 : data[i * channels + from]!
      out[i * 4 + k] = depth === 16 ? value >> 8 : value
    }
  }
  return { width, height, data: out }
}

/** What the bytes of colors mean, and those of data. */
export const LINEAR = Float32Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255))
export const RAW = Float32Array.from({ length: 256 }, (_, i) => i / 255)

const ONE_TILE: NonNullable<Picture['covers']> = [0, 0, 1, 1]

/** The texel that stands for number `i` of a row of `n`, where the row goes on beyond its ends. */
const FOLDED: Record<Beyond, (i: number, n: number) => number> = {
  repeat: (i, n) => ((i % n) + n) % n,
  mirror(i, n) {
    const at = ((i % (2 * n)) + 2 * n) % (2 * n)
    return at < n ? at : 2 * n - 1 - at
  },
  edge: (i, n) => Math.min(n - 1, Math.max(0, i)),
}

/**
 * One channel (0 to 3: red, green, blue, alpha) at a place of a picture: between the four nearest texels' middles,
 * after their colors are decoded, or the nearest one alone. `u` runs to the right, `v` down, both 1 at the far side.
 */
export function readPicture(
  { width, height, data, lanes = 4, covers = ONE_TILE }: Picture,
  channel: number,
  { linear, across, down, nearest }: PictureReading,
  u: number,
  v: number,
): number {
  if (lanes === 1 && channel === 3) return 1
  const numbers = data instanceof Float32Array
  const table = linear || channel === 3 ? RAW : LINEAR
  const column = FOLDED[across]
  const row = FOLDED[down]
  const lane = lanes === 1 ? 0 : channel
  const at = (i: number, j: number): number => {
    const value = data[(row(j, height) * width + column(i, width)) * lanes + lane]!
    return numbers ? value : table[value]!
  }
  const [left, top, wide, tall] = covers
  const s = ((u - left) / wide) * width
  const t = ((v - top) / tall) * height
  if (nearest) return at(Math.floor(s), Math.floor(t))
  const x = s - 0.5
  const y = t - 0.5
  const x0 = Math.floor(x)
  const y0 = Math.floor(y)
  const fx = x - x0
  const fy = y - y0
  const first = at(x0, y0)
  const second = at(x0, y0 + 1)
  const above = first + (at(x0 + 1, y0) - first) * fx
  const below = second + (at(x0 + 1, y0 + 1) - second) * fx
  return above + (below - above) * fy
}
