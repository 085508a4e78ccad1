import { DataUtils, type WebGLRenderer } from 'three'

/** The pixels of a picture of half floats that is ready, as bytes and opaque, row by row from the top. */
export async function readPicture(
  renderer: WebGLRenderer,
  target: Parameters<WebGLRenderer['readRenderTargetPixelsAsync']>[0],
): Promise<ImageData> {
  const { width, height } = target
  const halves = new Uint16Array(width * height * 4)
  await renderer.readRenderTargetPixelsAsync(target, 0, 0, width, height, halves)
  const bytes = new Uint8ClampedArray(width * height * 4)
  for (let y = 0; y < height; y++) {
    const from = (height - 1 - y) * width * 4
    for (let i = 0; i < width * 4; i++)
      bytes[y * width * 4 + i] = i % 4 === 3 ? 255 : DataUtils.fromHalfFloat(halves[from + i]!) * 255
  }
  return new ImageData(bytes, width, height)
}

/** A picture as PNG of so many pixels: all of it, on a background where the shapes differ. */
export async function pngInside(
  picture: ImageData,
  width: number,
  height: number,
  background: string,
): Promise<Blob | null> {
  const whole = new OffscreenCanvas(picture.width, picture.height)
  whole.getContext('2d')?.putImageData(picture, 0, 0)
  const scale = Math.min(width / whole.width, height / whole.height)
  const small = new OffscreenCanvas(width, height)
  const context = small.getContext('2d')
  if (!context) return null
  context.fillStyle = background
  context.fillRect(0, 0, width, height)
  context.imageSmoothingQuality = 'high'
  context.drawImage(
    whole,
    (width - whole.width * scale) / 2,
    (height - whole.height * scale) / 2,
    whole.width * scale,
    whole.height * scale,
  )
  return small.convertToBlob({ type: 'image/png' })
}
