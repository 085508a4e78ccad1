declare module 'draco3dgltf/draco_decoder_gltf_nodejs.js' {
  const create: (options: { wasmBinary: ArrayBuffer }) => Promise<unknown>
  export default create
}
