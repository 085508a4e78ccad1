import type { Builder } from './builder'
import type { Ref, Ref3 } from './ops'

/**
 * OKLab of linear Rec. 709, and back: Björn Ottosson, "A perceptual color space for image processing" (2020), with the
 * matrices of 2021-01-25. L is 0..1; a and b about -0.4..0.4.
 */
export const RGB_TO_LMS = [
  [0.4122214708, 0.5363325363, 0.0514459929],
  [0.2119034982, 0.6806995451, 0.1073969566],
  [0.0883024619, 0.2817188376, 0.6299787005],
] as const
export const LMS_TO_LAB = [
  [0.2104542553, 0.793617785, -0.0040720468],
  [1.9779984951, -2.428592205, 0.4505937099],
  [0.0259040371, 0.7827717662, -0.808675766],
] as const
export const LAB_TO_LMS = [
  [1, 0.3963377774, 0.2158037573],
  [1, -0.1055613458, -0.0638541728],
  [1, -0.0894841775, -1.291485548],
] as const
export const LMS_TO_RGB = [
  [4.0767416621, -3.3077115913, 0.2309699292],
  [-1.2684380046, 2.6097574011, -0.3413193965],
  [-0.0041960863, -0.7034186147, 1.707614701],
] as const

/** Luminance weights of Rec. 709 primaries (ITU-R BT.709). */
export const LUMINANCE = [0.2126, 0.7152, 0.0722] as const

type Matrix = readonly (readonly [number, number, number])[]
const apply = (b: Builder, m: Matrix, v: Ref3): Ref3 => m.map(row => b.row3(v, row)) as Ref3

export function toOklab(b: Builder, rgb: Ref3): Ref3 {
  return apply(
    b,
    LMS_TO_LAB,
    b.map3(x => b.op('cbrt', [x!]), apply(b, RGB_TO_LMS, rgb)),
  )
}

export function fromOklab(b: Builder, lab: Ref3): Ref3 {
  const cube = (x?: Ref): Ref => b.mul(x!, b.mul(x!, x!))
  return apply(b, LMS_TO_RGB, b.map3(cube, apply(b, LAB_TO_LMS, lab)))
}

/** As {@link fromOklab}, with lightness held in 0..1 and chroma reduced until the color is inside the gamut. */
export function fromOklabInGamut(b: Builder, [L, A, B]: Ref3): Ref3 {
  const light = b.clamp01(L)
  const fit = b.op('fitChroma', [light, A, B])
  return b.map3(x => b.clamp01(x!), fromOklab(b, [light, b.mul(A, fit), b.mul(B, fit)]))
}

export const luminance = (b: Builder, rgb: Ref3): Ref => b.row3(rgb, LUMINANCE)

/** The sRGB transfer function (IEC 61966-2-1) of a linear component from 0 to 1, and back. */
export function encodeSrgb(b: Builder, x: Ref): Ref {
  const curve = b.sub(b.mul(b.constant(1.055), b.op('pow', [x, b.constant(1 / 2.4)])), b.constant(0.055))
  return b.op('select', [b.op('less', [b.constant(0.0031308), x]), curve, b.mul(b.constant(12.92), x)])
}
export function decodeSrgb(b: Builder, x: Ref): Ref {
  const curve = b.op('pow', [b.div(b.add(x, b.constant(0.055)), b.constant(1.055)), b.constant(2.4)])
  return b.op('select', [b.op('less', [b.constant(0.04045), x]), curve, b.div(x, b.constant(12.92))])
}
