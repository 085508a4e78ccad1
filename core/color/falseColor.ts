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

/** Hues, and lightnesses of each, that swatches have: nobody tells more of them apart. */
const HUES = 256
const LIGHTNESSES = 16
const swatches: ([number, number, number] | undefined)[] = []

/** A color to tell one thing from another by, from its key: any hue, some lightnesses, quiet. Encoded sRGB, 0 to 1. */
export function swatchOf(key: string): [number, number, number] {
  const hue = parseInt(key.slice(0, 2), 16)
  const lightness = parseInt(key.slice(8, 9), 16)
  const at = hue * LIGHTNESSES + lightness
  return (swatches[at] ??= madeSwatch(hue / HUES, lightness / LIGHTNESSES))
}

const madeSwatch = (hue: number, lightness: number): [number, number, number] =>
  fromLch([0.52 + 0.3 * lightness, 0.085, hue * 360]).map(encodeSrgb) as [number, number, number]
