import { decodeSrgb, type Triple } from './convert'
import { colorDifference } from './difference'
import { falseColor } from './falseColor'

export interface Comparison {
  /** Pixels that show surface in either picture. */
  pixels: number
  /** CIEDE2000 over those. */
  mean: number
  largest: number
  /** Below it are 99 of 100. */
  most: number
  /** The share of pixels that differ by less than 1, which nobody sees: 0 to 1. */
  alike: number
  /** False colors of the difference, up to 10; RGBA. */
  picture: Uint8ClampedArray
}
/** Differences that the picture tells apart go up to here. */
export const COMPARED_TO = 10

const LINEAR = Float64Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255))

/** RGBA from 0 to 255, encoded sRGB: bytes, or numbers between them. */
export type Compared = Uint8ClampedArray | Float32Array

/** Finds how two pictures differ at the pixel that begins at a place. */
function differences(a: Compared, b: Compared): (at: number) => number {
  const between = (p: Compared, i: number) => [0, 1, 2].map(k => decodeSrgb(p[i + k]! / 255)) as Triple
  if (a.BYTES_PER_ELEMENT > 1 || b.BYTES_PER_ELEMENT > 1) return i => colorDifference(between(a, i), between(b, i))
  const linear = (p: Compared, i: number) => [0, 1, 2].map(k => LINEAR[p[i + k]!]!) as Triple
  const packed = (p: Compared, i: number) => (p[i]! << 16) | (p[i + 1]! << 8) | p[i + 2]!
  // Many pixels share a pair of colors.
  const known = new Map<number, number>()
  return i => {
    const key = packed(a, i) * 16777216 + packed(b, i)
    const before = known.get(key)
    if (before !== undefined) return before
    const found = colorDifference(linear(a, i), linear(b, i))
    known.set(key, found)
    return found
  }
}

/**
 * Compares two pictures of the same size, pixel by pixel.
 * @param background what both show where there is no surface: pixels that have it in both are left out
 */
export function comparePictures(a: Compared, b: Compared, background: readonly number[]): Comparison {
  const picture = new Uint8ClampedArray(a.length)
  const found: number[] = []
  const differenceAt = differences(a, b)
  const behind = background.map(Math.round)
  const isEmpty = (p: Compared, i: number) => behind.every((x, k) => Math.round(p[i + k]!) === x)
  for (let i = 0; i < a.length; i += 4) {
    picture[i + 3] = 255
    if (isEmpty(a, i) && isEmpty(b, i)) {
      for (let k = 0; k < 3; k++) picture[i + k] = background[k]!
      continue
    }
    const same = a[i] === b[i] && a[i + 1] === b[i + 1] && a[i + 2] === b[i + 2]
    const difference = same ? 0 : differenceAt(i)
    found.push(difference)
    falseColor(difference / COMPARED_TO).forEach((x, k) => {
      picture[i + k] = Math.round(x * 255)
    })
  }
  const sorted = Float64Array.from(found).sort()
  return {
    pixels: found.length,
    mean: found.reduce((s, d) => s + d, 0) / (found.length || 1),
    largest: sorted.at(-1) ?? 0,
    most: sorted[Math.floor(sorted.length * 0.99)] ?? 0,
    alike: found.length ? found.filter(d => d < 1).length / found.length : 1,
    picture,
  }
}
