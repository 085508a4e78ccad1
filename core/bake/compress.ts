/** What the encoders need of a compressor. Node's zlib does it; so do libraries for the browser. */
export interface Compressor {
  /** Deflate blocks (RFC 1951), none of them final, flushed to a whole byte: such stretches may be laid end to end. */
  blocks(bytes: Uint8Array): Uint8Array
  /** A whole zlib stream (RFC 1950). */
  zlib(bytes: Uint8Array): Uint8Array
}

/** Adler-32 (RFC 1950) of some bytes, and how many. */
export interface Adler {
  sum: number
  length: number
}
/** Adler-32 of two stretches of bytes end to end. */
export function adlerJoined(first: Adler, second: Adler): Adler {
  const a1 = first.sum & 0xffff
  const b1 = first.sum >>> 16
  const a2 = second.sum & 0xffff
  const b2 = second.sum >>> 16
  const a = (a1 + a2 + 65520) % 65521
  const b = (b1 + b2 + (second.length % 65521) * (a1 + 65520)) % 65521
  return { sum: (b * 65536 + a) >>> 0, length: first.length + second.length }
}

const CRC = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1
  return c
})
/** CRC-32 as the PNG standard has it. */
export function crcOf(...stretches: Uint8Array[]): number {
  let c = 0xffffffff
  for (const bytes of stretches) for (let i = 0; i < bytes.length; i++) c = CRC[(c ^ bytes[i]!) & 255]! ^ (c >>> 8)
  return (c ^ 0xffffffff) >>> 0
}

/** Stretches of bytes end to end. */
export function joined(...stretches: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(stretches.reduce((sum, s) => sum + s.length, 0))
  let at = 0
  for (const s of stretches) {
    out.set(s, at)
    at += s.length
  }
  return out
}
