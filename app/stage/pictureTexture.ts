import { DataTexture, FloatType, NearestFilter, NearestMipmapNearestFilter, RGBAFormat, UnsignedByteType } from 'three'
import { isSeen, type Picture } from '#core/evaluate/pictures'
import { pyramidOf } from '#core/evaluate/pyramid'

/** What a texture holds: four numbers to a texel. */
function texelsOf({ width, height, data, lanes }: Picture): Uint8Array<ArrayBuffer> | Float32Array<ArrayBuffer> {
  if (!(data instanceof Float32Array)) return new Uint8Array(data.buffer as ArrayBuffer, data.byteOffset, data.length)
  if (!lanes) return data as Float32Array<ArrayBuffer>
  const spread = new Float32Array(width * height * 4).fill(1)
  for (let i = 0; i < width * height; i++) for (let k = 0; k < 3; k++) spread[i * 4 + k] = data[i]!
  return spread
}

const BLACK: Picture = { name: '', width: 1, height: 1, data: Uint8Array.of(0, 0, 0, 255) }

/** The same picture in floats: how a graphics card makes them of bytes is left to it, to the last bit. */
const inFloats = (picture: Picture): Picture =>
  isSeen(picture) ? { ...picture, data: Float32Array.from(picture.data, x => x / 255) } : picture

/**
 * A picture that is read texel by texel; black and opaque where it is missing.
 * @param linear what its numbers mean to whoever reads it from afar, too (see `pyramidOf`); without it, nobody does
 * @param exact whether the last bits of its numbers count
 */
export function pictureTexture(picture: Picture = BLACK, linear?: boolean, exact = false): DataTexture {
  const read = exact ? inFloats(picture) : picture
  const levels = linear === undefined ? [read] : pyramidOf(read, linear)
  const images = levels.map(level => ({ data: texelsOf(level), width: level.width, height: level.height }))
  const { data, width, height } = images[0]!
  const type = data instanceof Float32Array ? FloatType : UnsignedByteType
  const texture = new DataTexture(data, width, height, RGBAFormat, type)
  texture.magFilter = NearestFilter
  texture.minFilter = images.length > 1 ? NearestMipmapNearestFilter : NearestFilter
  if (images.length > 1) texture.mipmaps = images
  texture.needsUpdate = true
  return texture
}
