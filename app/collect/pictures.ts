import { fineOf, isExr, isFine, PICTURE_LIMIT, type Picture } from '#core/evaluate/pictures'
import { evaluator } from '../shared/evaluation'

/**
 * Reads a picture file: EXR as numbers, others as RGBA bytes, made smaller where they are larger than the limit. Throws
 * where it cannot be read.
 */
export async function decodePicture(name: string, bytes: Blob): Promise<Picture> {
  if (isExr(name)) {
    const answer = await evaluator.readExr(name, await bytes.arrayBuffer())
    if ('error' in answer) throw new Error(answer.error)
    return answer.ok
  }
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

/**
 * Reads a picture of normals: with all of its bits where it is a PNG of 16 bits to a number, which canvases halve.
 * Throws where it cannot be read.
 */
export async function decodeNormals(name: string, file: Blob): Promise<Picture> {
  const bytes = new Uint8Array(await file.arrayBuffer())
  if (!isFine(bytes)) return decodePicture(name, file)
  const { decode } = await import('fast-png')
  return { name, ...fineOf(decode(bytes)) }
}
