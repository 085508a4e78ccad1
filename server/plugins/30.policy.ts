import { createHash } from 'node:crypto'

/** Where the application itself may get things from. Its inline scripts are named by their hashes. */
const policy = (scripts: readonly string[]): string =>
  [
    `default-src 'self'`,
    // Kernels, decoders and the standard's library are WebAssembly.
    `script-src 'self' 'wasm-unsafe-eval' ${scripts.map(s => `'sha256-${s}'`).join(' ')}`.trim(),
    `style-src 'self' 'unsafe-inline'`,
    `img-src 'self' data: blob:`,
    `font-src 'self' data:`,
    `connect-src 'self' data: blob:`,
    `worker-src 'self' blob:`,
    `object-src 'none'`,
    `base-uri 'none'`,
    `form-action 'self'`,
    `frame-ancestors 'none'`,
  ].join('; ')

/** Scripts that stand in the page itself; blocks of data are no scripts. */
const INLINE = /<script(?![^>]*\bsrc=)(?![^>]*type="application\/json")[^>]*>([\s\S]*?)<\/script>/g

export default defineNitroPlugin(nitro => {
  // While it is developed, the page's scripts come from elsewhere.
  if (import.meta.dev) return
  nitro.hooks.hook('render:response', response => {
    if (typeof response.body !== 'string') return
    const scripts = [...response.body.matchAll(INLINE)].map(m => createHash('sha256').update(m[1]!).digest('base64'))
    const { 'x-powered-by': _, ...headers } = response.headers ?? {}
    response.headers = { ...headers, 'content-security-policy': policy([...new Set(scripts)]) }
  })
})
