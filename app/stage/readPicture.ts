import { DataUtils, type WebGLRenderer } from 'three'

type Target = Parameters<WebGLRenderer['readRenderTargetPixelsAsync']>[0]

/** The numbers of a picture of half floats that is ready, four to a pixel, row by row from below. */
export async function readHalves(renderer: WebGLRenderer, target: Target): Promise<Uint16Array<ArrayBuffer>> {
  const { width, height } = target
  const halves = new Uint16Array(width * height * 4)
  await renderer.readRenderTargetPixelsAsync(target, 0, 0, width, height, halves)
  return halves
}

/** Such numbers as bytes and opaque, row by row from the top. */
export function opaque(halves: Uint16Array, width: number, height: number): ImageData {
  const bytes = new Uint8ClampedArray(width * height * 4)
  for (let y = 0; y < height; y++) {
    const from = (height - 1 - y) * width * 4
    for (let i = 0; i < width * 4; i++)
      bytes[y * width * 4 + i] = i % 4 === 3 ? 255 : DataUtils.fromHalfFloat(halves[from + i]!) * 255
  }
  return new ImageData(bytes, width, height)
}

/** The pixels of a picture of half floats that is ready, as bytes and opaque, row by row from the top. */
export const readPicture = async (renderer: WebGLRenderer, target: Target): Promise<ImageData> =>
  opaque(await readHalves(renderer, target), target.width, target.height)
