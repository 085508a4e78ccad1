import type { OpName } from '../program/ops'
import { KERNELS } from './generated/bytes'

/** Points per block: a column is 4 KiB, so the columns of a stage stay in cache. */
export const BLOCK = 1024

type Kernel = (...args: number[]) => void

/** The compiled kernels with their own memory. One per thread; whoever runs a block may use all of the arena. */
export interface Kernels {
  run: Readonly<Record<OpName, Kernel>>
  /** Byte address of the first free byte, 16-byte aligned. */
  arena: number
  /** Makes room for `bytes` from the arena on and returns the memory as floats and as words. */
  reserve(bytes: number): { floats: Float32Array, words: Uint32Array }
}

// The two members of WebAssembly used here; the DOM library, which declares it, is not for core.
declare const WebAssembly: {
  instantiate(bytes: Uint8Array): Promise<{ instance: { exports: Record<string, unknown> } }>
}

/** Decodes standard base64 (RFC 4648) without padding rules. */
function decode(text: string): Uint8Array {
  const digits = new Uint8Array(128)
  for (let i = 0; i < 64; i++) digits['ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'.charCodeAt(i)] = i
  const clean = text.replace(/=+$/, ''), bytes = new Uint8Array(clean.length * 3 >> 2)
  let bits = 0, held = 0, at = 0
  for (let i = 0; i < clean.length; i++) {
    bits = bits << 6 | digits[clean.charCodeAt(i)]!
    held += 6
    if (held >= 8) bytes[at++] = bits >> (held -= 8)
  }
  return bytes
}

export async function loadKernels(): Promise<Kernels> {
  const { instance } = await WebAssembly.instantiate(decode(KERNELS))
  const memory = instance.exports.memory as { buffer: ArrayBuffer, grow(pages: number): number }
  const arena = 65536
  let floats = new Float32Array(memory.buffer), words = new Uint32Array(memory.buffer)
  return {
    run: instance.exports as unknown as Record<OpName, Kernel>,
    arena,
    reserve(bytes) {
      const missing = arena + bytes - memory.buffer.byteLength
      if (missing > 0) memory.grow(Math.ceil(missing / 65536))
      if (floats.buffer !== memory.buffer) {
        floats = new Float32Array(memory.buffer)
        words = new Uint32Array(memory.buffer)
      }
      return { floats, words }
    },
  }
}
