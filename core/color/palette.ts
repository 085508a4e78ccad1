import { decodeSrgb, fromLab, toLab, type Triple } from './convert'
import type { Picture } from '../evaluate/pictures'

/** A color (linear) and the share of the region that it stands for, 0 to 1. */
export interface Pulled {
  color: Triple
  share: number
}
/** A rectangle of a picture, its sides as shares of the picture's, from the upper left corner. */
export interface Region {
  x: number
  y: number
  width: number
  height: number
}

/** Texels that are looked at, at most; rounds of moving the means. */
const MOST = 16_384
const ROUNDS = 40
const LINEAR = Float32Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255))

/**
 * The colors that a region of a picture is made of: k-means in OKLab (Lloyd 1982), begun with the texels farthest from
 * those that were chosen before, so that the same region gives the same colors. Transparent texels are left out.
 * @param count how many colors are asked for; fewer come where the region has fewer
 * @returns the most frequent first; shares add up to 1
 */
export function pullPalette({ width, height, data }: Picture, region: Region, count: number): Pulled[] {
  const span = (at: number, size: number, n: number): [number, number] => {
    const first = Math.min(n - 1, Math.max(0, Math.round(at * n)))
    return [first, Math.min(n, Math.max(first + 1, Math.round((at + size) * n)))]
  }
  const [left, right] = span(region.x, region.width, width)
  const [top, bottom] = span(region.y, region.height, height)
  const step = Math.max(1, Math.ceil(Math.sqrt(((right - left) * (bottom - top)) / MOST)))
  const labs: Triple[] = []
  for (let y = top; y < bottom; y += step) {
    for (let x = left; x < right; x += step) {
      const i = (y * width + x) * 4
      if (data[i + 3]! >= 128) labs.push(toLab([LINEAR[data[i]!]!, LINEAR[data[i + 1]!]!, LINEAR[data[i + 2]!]!]))
    }
  }
  return clusters(labs, count)
}

/**
 * The colors that many are made of.
 * @param labs in OKLab
 * @returns as {@link pullPalette}
 */
export function clusters(labs: readonly Triple[], count: number): Pulled[] {
  if (!labs.length) return []
  const away = (a: Triple, b: Triple) => (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2
  const meanOf = (all: readonly Triple[]): Triple =>
    [0, 1, 2].map(k => all.reduce((s, c) => s + c[k]!, 0) / all.length) as Triple

  // (1) Far apart to begin with. The one nearest to the mean comes first, so that a lone stray does not.
  const middle = meanOf(labs)
  const means: Triple[] = [labs.reduce((best, c) => (away(c, middle) < away(best, middle) ? c : best))]
  const nearest = labs.map(c => away(c, means[0]!))
  while (means.length < count) {
    let far = 0
    nearest.forEach((d, i) => {
      if (d > nearest[far]!) far = i
    })
    // Nothing is left that differs by what an eye could see.
    if (nearest[far]! < 1e-6) break
    means.push(labs[far]!)
    labs.forEach((c, i) => {
      nearest[i] = Math.min(nearest[i]!, away(c, labs[far]!))
    })
  }
  // (2) Every texel to its nearest mean, every mean to the middle of its texels, until nothing moves.
  const own = new Uint8Array(labs.length)
  for (let round = 0, moved = true; moved && round < ROUNDS; round++) {
    moved = false
    labs.forEach((c, i) => {
      let best = 0
      for (let m = 1; m < means.length; m++) if (away(c, means[m]!) < away(c, means[best]!)) best = m
      if (own[i] !== best || round === 0) moved = true
      own[i] = best
    })
    means.forEach((_, m) => {
      const mine = labs.filter((_c, i) => own[i] === m)
      if (mine.length) means[m] = meanOf(mine)
    })
  }
  return means
    .map((m, k) => ({
      color: fromLab(m).map(x => Math.min(1, Math.max(0, x))) as Triple,
      share: own.reduce((s, o) => s + Number(o === k), 0) / labs.length,
    }))
    .filter(p => p.share > 0)
    .sort((a, b) => b.share - a.share)
}

/** The hex codes (#rgb or #rrggbb, with or without the sign) that a text names, in order. */
export const hexCodes = (text: string): string[] =>
  [...text.matchAll(/#([0-9a-f]{6}|[0-9a-f]{3})\b|\b([0-9a-f]{6})\b/gi)].map(m => {
    const code = (m[1] ?? m[2]!).toLowerCase()
    return `#${code.length === 3 ? [...code].map(c => c + c).join('') : code}`
  })
