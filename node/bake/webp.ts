import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'
import { decode as decodePng } from 'fast-png'
import type { DecodedPicture } from '../../core/trace/scene'

/** How hard the encoder tries, from 0 to 100: at 75, 2048 x 2048 pixels take five times as long and are 5 % smaller. */
const EFFORT = 25

const require = createRequire(import.meta.url)
/** A codec of the package, with its program. */
async function opened<T extends { init(program: WebAssembly.Module): Promise<unknown> }>(
  codec: Promise<T>,
  program: string,
): Promise<T> {
  const made = await codec
  await made.init(await WebAssembly.compile(await readFile(require.resolve(`@jsquash/webp/codec/${program}`))))
  return made
}
let encoder: Promise<typeof import('@jsquash/webp/encode.js')> | undefined
let decoder: Promise<typeof import('@jsquash/webp/decode.js')> | undefined

/** A PNG of 8 bits as WebP with the same numbers, those behind an alpha of 0 as well; gray becomes three times gray. */
export async function webpOfPng(png: Uint8Array): Promise<Uint8Array> {
  const { width, height, channels, data } = decodePng(png)
  const pixels = new Uint8ClampedArray(width * height * 4)
  for (let i = 0; i < width * height; i++) {
    for (let k = 0; k < 3; k++) pixels[i * 4 + k] = data[i * channels + (channels < 3 ? 0 : k)]!
    pixels[i * 4 + 3] = channels % 2 ? 255 : data[i * channels + channels - 1]!
  }
  const { default: encode } = await (encoder ??= opened(import('@jsquash/webp/encode.js'), 'enc/webp_enc_simd.wasm'))
  const picture = { width, height, data: pixels, colorSpace: 'srgb' } as ImageData
  return new Uint8Array(await encode(picture, { lossless: 1, exact: 1, quality: EFFORT }))
}

/** A WebP as its pixels, four numbers each. */
export async function readWebp(bytes: Uint8Array): Promise<DecodedPicture> {
  const { default: decode } = await (decoder ??= opened(import('@jsquash/webp/decode.js'), 'dec/webp_dec.wasm'))
  const { width, height, data } = await decode(bytes.slice().buffer)
  return { width, height, channels: 4, depth: 8, data }
}
