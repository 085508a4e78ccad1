declare module 'gltf-validator' {
  const validator: {
    validateBytes(bytes: Uint8Array): Promise<{
      issues: {
        numErrors: number
        numWarnings: number
        messages: { code: string; message: string; severity: number; pointer: string }[]
      }
    }>
  }
  export default validator
}
declare module 'draco3dgltf' {
  const draco3d: { createEncoderModule(): Promise<unknown>; createDecoderModule(): Promise<unknown> }
  export default draco3d
}
