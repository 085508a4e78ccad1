import decoderUrl from 'draco3dgltf/draco_decoder_gltf.wasm?url'

let loaded: Promise<unknown> | undefined
/** The Draco decoder for the browser; loaded when the first compressed file asks for it. */
export const draco = (): Promise<unknown> =>
  (loaded ??= (async () => {
    const [{ default: create }, wasmBinary] = await Promise.all([
      import('draco3dgltf/draco_decoder_gltf_nodejs.js'),
      fetch(decoderUrl).then(r => r.arrayBuffer()),
    ])
    return create({ wasmBinary })
  })())
