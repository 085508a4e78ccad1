/** Whether the graphics card is none, by its brand: once it is known it stays. */
let known: boolean | undefined

/** The brand of graphics card that is none: it is made of software, slower than our own kernels. */
export const drawsInSoftware = (): boolean => (known ??= isSoftware())

function isSoftware(): boolean {
  const gl = document.createElement('canvas').getContext('webgl2')
  const info = gl?.getExtension('WEBGL_debug_renderer_info')
  const name = info ? String(gl!.getParameter(info.UNMASKED_RENDERER_WEBGL)) : ''
  gl?.getExtension('WEBGL_lose_context')?.loseContext()
  return /swiftshader|llvmpipe|software|basic render/i.test(name)
}
