import { decodeSrgb, type Triple } from '../core/color/convert'
import { colorDifference } from '../core/color/difference'

type Bytes = ArrayLike<number>

/**
 * CIEDE2000 at each pixel of two pictures that is not background in both.
 * @param a RGBA bytes, encoded sRGB; `b` alike
 * @param isBackground whether the pixel is that begins at a place of a picture
 */
export function colorDifferences(a: Bytes, b: Bytes, isBackground: (picture: Bytes, at: number) => boolean): number[] {
  const colorAt = (p: Bytes, i: number): Triple => [0, 1, 2].map(k => decodeSrgb(p[i + k]! / 255)) as Triple
  const found: number[] = []
  for (let i = 0; i < a.length; i += 4) {
    if (!isBackground(a, i) || !isBackground(b, i)) found.push(colorDifference(colorAt(a, i), colorAt(b, i)))
  }
  return found
}

/** The share of some differences that are below a limit. */
export const shareBelow = (differences: readonly number[], limit: number): number =>
  differences.filter(d => d < limit).length / differences.length
