type Exports = Record<string, unknown> & { memory: Memory }
/** A module that is compiled, of which any number of instances can be made. */
type Compiled = object
// The members of WebAssembly used here; the DOM library, which declares it, is not for core.
declare const WebAssembly: {
  instantiate(bytes: Uint8Array): Promise<{ instance: { exports: Exports } }>
  Module: new (bytes: Uint8Array) => Compiled
  Instance: new (module: Compiled, imports: object) => { exports: Exports }
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

/** The memory of a module. */
interface Memory {
  buffer: ArrayBuffer
  grow(pages: number): number
}

/** Kernels with a memory of their own. It may move when it grows, so views are asked for anew after that. */
export class KernelMemory<Run> {
  protected constructor(
    readonly run: Run,
    protected readonly memory: Memory,
    readonly watch: Watch,
  ) {}

  /**
   * Sees that there is memory up to an address.
   * @throws Error with the problem in one sentence where there is none
   */
  protected growTo(end: number, problem: string): void {
    const missing = end - this.memory.buffer.byteLength
    if (missing <= 0) return
    try {
      this.memory.grow(Math.ceil(missing / 65536))
    } catch {
      throw new Error(problem)
    }
  }

  floats(address: number, count: number): Float32Array {
    return new Float32Array(this.memory.buffer, address, count)
  }
  words(address: number, count: number): Uint32Array {
    return new Uint32Array(this.memory.buffer, address, count)
  }
  bytes(address: number, count: number): Uint8Array {
    return new Uint8Array(this.memory.buffer, address, count)
  }

  /** Runs kernels and notes the time they take. */
  timed<T>(work: (run: Run) => T): T {
    const { watch } = this
    if (!watch.clock) return work(this.run)
    const begun = watch.clock()
    const result = work(this.run)
    watch.spent += watch.clock() - begun
    return result
  }
}

/** A compiled module, from base64: its functions, and its memory. */
export async function instantiated(base64: string): Promise<Exports> {
  const { instance } = await WebAssembly.instantiate(decode(base64))
  return instance.exports
}

/** Compiles a small module, from base64, at once: a page waits for no more than 4 KB. */
export const compiled = (base64: string): Compiled => new WebAssembly.Module(decode(base64))
/** Another instance of a module: its functions, and a memory of its own. */
export const instanceOf = (module: Compiled): Exports => new WebAssembly.Instance(module, {}).exports
