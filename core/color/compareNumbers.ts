import { decodeSrgb } from './convert'
import { colorDifference } from './difference'

/** Numbers of a picture, row by row, `channels` to a pixel. Those of whole numbers stand for 0 to 1. */
export interface NumberPicture {
  width: number
  height: number
  channels: number
  values: ArrayLike<number>
  /** What stands for 1; 1 where the values are what they are. */
  full: number
}

/** How two pictures of the same size differ. */
export interface NumberComparison {
  /** Of any channel, as a share of the range, or as it is where the values are what they are. */
  largest: number
  /** Pixels that differ at all, as a share. */
  differing: number
  /** CIEDE2000 of pictures of whole numbers with three or four channels, taken as encoded sRGB: mean and largest. */
  color?: { mean: number; largest: number }
}

/** Compares two pictures number by number. @returns null where their sizes or channels differ */
export function compareNumbers(a: NumberPicture, b: NumberPicture): NumberComparison | null {
  if (a.width !== b.width || a.height !== b.height || a.channels !== b.channels) return null
  const { channels } = a
  const pixels = a.width * a.height
  const colored = channels >= 3 && a.full > 1 && b.full > 1
  const known = new Map<string, number>()
  let largest = 0
  let differing = 0
  let sum = 0
  let most = 0
  for (let i = 0; i < pixels; i++) {
    let off = 0
    for (let k = 0; k < channels; k++) {
      const at = i * channels + k
      off = Math.max(off, Math.abs(a.values[at]! / a.full - b.values[at]! / b.full))
    }
    if (!off) continue
    largest = Math.max(largest, off)
    differing++
    if (!colored) continue
    const linear = (p: NumberPicture) => [0, 1, 2].map(k => decodeSrgb(p.values[i * channels + k]! / p.full))
    const pair = [a, b].flatMap(p => [0, 1, 2].map(k => p.values[i * channels + k]!)).join()
    const d = known.get(pair) ?? colorDifference(linear(a), linear(b))
    // Few pairs of colors make up most of a picture; a picture of noise would only fill the memory.
    if (known.size < 100_000) known.set(pair, d)
    sum += d
    most = Math.max(most, d)
  }
  return {
    largest,
    differing: differing / Math.max(1, pixels),
    ...(colored && { color: { mean: sum / Math.max(1, pixels), largest: most } }),
  }
}
