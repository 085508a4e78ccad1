import { decodeSrgb, encodeSrgb } from './convert'

/** Shares of red, green and blue in luminance, of linear light (ITU-R BT.709). */
const LUMINANCE = [0.2126, 0.7152, 0.0722] as const

/**
 * A picture in gray of the same luminance, to judge values without hues.
 * @param bytes RGBA, encoded by sRGB; alpha stays
 */
export function inGray(bytes: Uint8ClampedArray): Uint8ClampedArray<ArrayBuffer> {
  const linear = Float32Array.from({ length: 256 }, (_, x) => decodeSrgb(x / 255))
  const gray = new Uint8ClampedArray(bytes)
  for (let i = 0; i < bytes.length; i += 4) {
    const light = LUMINANCE.reduce((sum, share, k) => sum + share * linear[bytes[i + k]!]!, 0)
    gray.fill(encodeSrgb(light) * 255, i, i + 3)
  }
  return gray
}
