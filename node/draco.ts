import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'

let loaded: Promise<unknown> | undefined
/** The Draco decoder for Node; loaded when the first compressed file asks for it. */
export const draco = (): Promise<unknown> =>
  (loaded ??= (async () => {
    const require = createRequire(import.meta.url)
    const create = require('draco3dgltf/draco_decoder_gltf_nodejs.js') as (options: object) => Promise<unknown>
    return create({ wasmBinary: await readFile(require.resolve('draco3dgltf/draco_decoder_gltf.wasm')) })
  })())
