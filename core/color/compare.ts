import { decodeSrgb } from './convert'
import { colorDifference } from './difference'
import { falseColor } from './falseColor'

export interface Comparison {
  /** Pixels that show surface in either picture. */
  pixels: number
  /** CIEDE2000 over those. */
  mean: number
  largest: number
  /** Below it are 95 of 100. */
  most: number
  /** False colors of the difference, up to 10; RGBA. */
  picture: Uint8ClampedArray
}
/** Differences that the picture tells apart go up to here. */
export const COMPARED_TO = 10

const LINEAR = Float64Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255))

/**
 * Compares two pictures of the same size, pixel by pixel.
 * @param a RGBA bytes, encoded sRGB; `b` alike
 * @param background what both show where there is no surface: pixels that have it in both are left out
 */
export function comparePictures(a: Uint8ClampedArray, b: Uint8ClampedArray, background: readonly number[]): Comparison {
  const picture = new Uint8ClampedArray(a.length)
  const found: number[] = []
  const empty = (p: Uint8ClampedArray, i: number) =>
    p[i] === background[0] && p[i + 1] === background[1] && p[i + 2] === background[2]
  const known = new Map<number, number>()
  for (let i = 0; i < a.length; i += 4) {
    picture[i + 3] = 255
    if (empty(a, i) && empty(b, i)) {
      for (let k = 0; k < 3; k++) picture[i + k] = background[k]!
      continue
    }
    const same = a[i] === b[i] && a[i + 1] === b[i + 1] && a[i + 2] === b[i + 2]
    // Many pixels share a pair of colors.
    const key =
      ((a[i]! << 16) | (a[i + 1]! << 8) | a[i + 2]!) * 16777216 + ((b[i]! << 16) | (b[i + 1]! << 8) | b[i + 2]!)
    let d = same ? 0 : known.get(key)
    if (d === undefined)
      known.set(
        key,
        (d = colorDifference(
          [LINEAR[a[i]!]!, LINEAR[a[i + 1]!]!, LINEAR[a[i + 2]!]!],
          [LINEAR[b[i]!]!, LINEAR[b[i + 1]!]!, LINEAR[b[i + 2]!]!],
        )),
      )
    found.push(d)
    falseColor(d / COMPARED_TO).forEach((x, k) => {
      picture[i + k] = Math.round(x * 255)
    })
  }
  const sorted = Float64Array.from(found).sort()
  return {
    pixels: found.length,
    mean: found.reduce((s, d) => s + d, 0) / (found.length || 1),
    largest: sorted.at(-1) ?? 0,
    most: sorted[Math.floor(sorted.length * 0.95)] ?? 0,
    picture,
  }
}
