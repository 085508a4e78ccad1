import decoderUrl from '@jsquash/webp/codec/dec/webp_dec.wasm?url'
import type { DecodedPicture } from '#core/trace/scene'

const open = async (): Promise<typeof import('@jsquash/webp/decode.js')> => {
  const [made, wasm] = await Promise.all([
    import('@jsquash/webp/decode.js'),
    fetch(decoderUrl).then(answer => answer.arrayBuffer()),
  ])
  await made.init(await WebAssembly.compile(wasm))
  return made
}
let decoder: ReturnType<typeof open> | undefined

/** A WebP as its pixels, four numbers each, as they are in the file: a canvas would lose those behind an alpha of 0. */
export async function readWebp(bytes: Uint8Array): Promise<DecodedPicture> {
  const { default: decode } = await (decoder ??= open())
  const { width, height, data } = await decode(bytes.slice().buffer)
  return { width, height, channels: 4, depth: 8, data }
}
