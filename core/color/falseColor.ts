import { encodeSrgb, fromLch } from './convert'

/**
 * False colors for a number from 0 to 1: a path through OKLCH whose lightness rises evenly from 0.24 to 0.94 while the
 * hue turns from violet through green to yellow, so that order can be read without hue as well. Encoded sRGB, 0 to 1.
 */
export function falseColor(t: number): [number, number, number] {
  const x = Math.min(1, Math.max(0, t))
  const lightness = 0.24 + 0.7 * x
  const hue = 300 - 200 * x ** 0.85
  return fromLch([lightness, 0.04 + 0.09 * Math.sin(Math.PI * (0.15 + 0.75 * x)), hue]).map(encodeSrgb) as [
    number,
    number,
    number,
  ]
}

/** A color to tell one thing from another by, from its key: any hue, two lightnesses, quiet. Encoded sRGB, 0 to 1. */
export function swatchOf(key: string): [number, number, number] {
  const word = parseInt(key.slice(0, 8), 16) / 2 ** 32
  const other = parseInt(key.slice(8, 16), 16) / 2 ** 32
  return fromLch([0.52 + 0.3 * other, 0.085, word * 360]).map(encodeSrgb) as [number, number, number]
}
