import { PICTURE_LIMIT, type Picture } from '#core/evaluate/pictures'

/** Reads a picture file as RGBA bytes, made smaller where it is larger than the limit. Throws where the browser cannot read it. */
export async function decodePicture(name: string, bytes: Blob): Promise<Picture> {
  // As they are in the file: no color management, no premultiplied alpha.
  const bitmap = await createImageBitmap(bytes, { colorSpaceConversion: 'none', premultiplyAlpha: 'none' })
  const scale = Math.min(1, PICTURE_LIMIT / Math.max(bitmap.width, bitmap.height))
  const width = Math.max(1, Math.round(bitmap.width * scale))
  const height = Math.max(1, Math.round(bitmap.height * scale))
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!
  context.imageSmoothingQuality = 'high'
  context.drawImage(bitmap, 0, 0, width, height)
  bitmap.close()
  return { name, width, height, data: context.getImageData(0, 0, width, height).data }
}
