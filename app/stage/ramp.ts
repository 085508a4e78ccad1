import { DataTexture, LinearFilter, RGBAFormat } from 'three'
import { falseColor } from '#core/color/falseColor'

let ramp: DataTexture | undefined
/** The false colors as a strip, encoded for display. */
export function rampTexture(): DataTexture {
  if (ramp) return ramp
  const bytes = Uint8Array.from({ length: 1024 }, (_, i) =>
    i % 4 === 3 ? 255 : Math.round(falseColor((i >> 2) / 255)[i % 4]! * 255),
  )
  ramp = new DataTexture(bytes, 256, 1, RGBAFormat)
  ramp.minFilter = ramp.magFilter = LinearFilter
  ramp.needsUpdate = true
  return ramp
}
