import { LAB_TO_LMS, LMS_TO_LAB, LMS_TO_RGB, RGB_TO_LMS } from '../program/color'

/** Single colors, for interfaces and encoders; programs use `core/program/color.ts`. All linear colors are Rec. 709. */
export type Triple = [number, number, number]

/** sRGB transfer function, IEC 61966-2-1: linear 0..1 to encoded 0..1, and back. */
export const encodeSrgb = (x: number): number => (x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055)
export const decodeSrgb = (x: number): number => (x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4)

type Matrix = readonly (readonly [number, number, number])[]
const apply = (m: Matrix, v: Triple): Triple => m.map(r => r[0] * v[0] + r[1] * v[1] + r[2] * v[2]) as Triple

/** OKLab (L 0..1, a, b) of a linear color, and back. */
export const toLab = (rgb: Triple): Triple => apply(LMS_TO_LAB, apply(RGB_TO_LMS, rgb).map(Math.cbrt) as Triple)
export const fromLab = (lab: Triple): Triple => apply(LMS_TO_RGB, apply(LAB_TO_LMS, lab).map(x => x ** 3) as Triple)

/** Lightness 0..1, chroma about 0..0.37, hue in degrees 0..360. */
export function toLch(rgb: Triple): Triple {
  const [L, a, b] = toLab(rgb)
  return [L, Math.hypot(a, b), ((Math.atan2(b, a) * 180) / Math.PI + 360) % 360]
}

/** A linear color for lightness, chroma and hue; chroma is reduced until the color is inside the gamut. */
export function fromLch([L, C, h]: Triple): Triple {
  const at = (c: number) => fromLab([L, c * Math.cos((h * Math.PI) / 180), c * Math.sin((h * Math.PI) / 180)])
  const inside = (c: Triple) => c.every(x => x >= -1e-4 && x <= 1.0001)
  let low = 0
  let high = C
  if (!inside(at(C))) {
    for (let i = 0; i < 20; i++) {
      const middle = (low + high) / 2
      if (inside(at(middle))) low = middle
      else high = middle
    }
    return at(low).map(x => Math.min(1, Math.max(0, x))) as Triple
  }
  return at(C).map(x => Math.min(1, Math.max(0, x))) as Triple
}

const byte = (x: number): number => Math.round(Math.min(1, Math.max(0, encodeSrgb(Math.max(0, x)))) * 255)

/** `#rrggbb` of a linear color, and back; null for text that is not a hex color (three or six digits). */
export const toHex = (rgb: readonly number[]): string =>
  `#${rgb.map(x => byte(x).toString(16).padStart(2, '0')).join('')}`
export function fromHex(text: string): Triple | null {
  const match = /^#?([0-9a-f]{3}|[0-9a-f]{6})$/i.exec(text.trim())
  if (!match) return null
  const digits = match[1]!.length === 3 ? [...match[1]!].map(d => d + d).join('') : match[1]!
  return [0, 2, 4].map(i => decodeSrgb(parseInt(digits.slice(i, i + 2), 16) / 255)) as Triple
}
