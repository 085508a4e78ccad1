import { DataUtils, type WebGLRenderer } from 'three'

type Target = Parameters<WebGLRenderer['readRenderTargetPixelsAsync']>[0]

/** The numbers of a picture of half floats that is ready, four to a pixel, row by row from below. */
export async function readHalves(renderer: WebGLRenderer, target: Target): Promise<Uint16Array<ArrayBuffer>> {
  const { width, height } = target
  const halves = new Uint16Array(width * height * 4)
  await renderer.readRenderTargetPixelsAsync(target, 0, 0, width, height, halves)
  return halves
}

/** Such numbers into a picture that goes from 0 to 255 and is opaque, row by row from the top. */
function put<Numbers extends Float32Array | Uint8ClampedArray>(
  halves: Uint16Array,
  width: number,
  height: number,
  out: Numbers,
): Numbers {
  for (let y = 0; y < height; y++) {
    const from = (height - 1 - y) * width * 4
    for (let i = 0; i < width * 4; i++)
      out[y * width * 4 + i] = i % 4 === 3 ? 255 : DataUtils.fromHalfFloat(halves[from + i]!) * 255
  }
  return out
}

/** Such numbers as bytes and opaque, row by row from the top. */
export const opaque = (halves: Uint16Array, width: number, height: number): ImageData =>
  new ImageData(put(halves, width, height, new Uint8ClampedArray(width * height * 4)), width, height)

/** The pixels of a picture of half floats that is ready, from 0 to 255 and not rounded, row by row from the top. */
export async function readShares(renderer: WebGLRenderer, target: Target): Promise<Float32Array<ArrayBuffer>> {
  const { width, height } = target
  return put(await readHalves(renderer, target), width, height, new Float32Array(width * height * 4))
}

/** The same as bytes. */
export const readPicture = async (renderer: WebGLRenderer, target: Target): Promise<ImageData> =>
  opaque(await readHalves(renderer, target), target.width, target.height)

/**
 * A picture as {@link readShares} has it, with the mean of a square of pixels for each of its own.
 * @param finer pixels along the sides of that square
 */
export function narrowed(pixels: Float32Array, width: number, finer: number): Float32Array<ArrayBuffer> {
  const across = width / finer
  const out = new Float32Array(pixels.length / finer ** 2)
  for (let i = 0; i < pixels.length; i++) {
    const pixel = i >> 2
    const x = Math.floor((pixel % width) / finer)
    const y = Math.floor(Math.floor(pixel / width) / finer)
    out[(y * across + x) * 4 + (i & 3)]! += pixels[i]! / finer ** 2
  }
  return out
}
