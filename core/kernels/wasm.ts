// The two members of WebAssembly used here; the DOM library, which declares it, is not for core.
declare const WebAssembly: {
  instantiate(bytes: Uint8Array): Promise<{ instance: { exports: Record<string, unknown> } }>
}

/** Time spent in kernels, in the unit of the clock; without a clock none is noted. */
export interface Watch {
  clock?: () => number
  spent: number
}

/** Decodes standard base64 (RFC 4648) without padding rules. */
function decode(text: string): Uint8Array {
  const digits = new Uint8Array(128)
  for (let i = 0; i < 64; i++)
    digits['ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'.charCodeAt(i)] = i
  const clean = text.replace(/=+$/, '')
  const bytes = new Uint8Array((clean.length * 3) >> 2)
  let bits = 0
  let held = 0
  let at = 0
  for (let i = 0; i < clean.length; i++) {
    bits = (bits << 6) | digits[clean.charCodeAt(i)]!
    held += 6
    if (held >= 8) bytes[at++] = bits >> (held -= 8)
  }
  return bytes
}

/** A compiled module, from base64: its functions, and its memory. */
export async function instantiated(
  base64: string,
): Promise<Record<string, unknown> & { memory: { buffer: ArrayBuffer; grow(pages: number): number } }> {
  const { instance } = await WebAssembly.instantiate(decode(base64))
  return instance.exports as never
}
