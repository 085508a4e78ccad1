import type { OpName } from '../program/ops'
import { KERNELS } from './generated/bytes'
import { SurfaceKernels } from './surface'
import { Texels } from './texels'
import { instantiated, type Watch } from './wasm'

/** Points per block: a column is 4 KiB, so the columns of a stage stay in cache. */
export const BLOCK = 1024

type Kernel = (...args: number[]) => void

/** The compiled kernels with their own memory. One per thread; whoever runs a block may use all of the arena. */
export interface Kernels {
  run: Readonly<Record<OpName | 'interpolate' | 'spread', Kernel>>
  /** Byte address of the first free byte, 16-byte aligned. */
  arena: number
  /** Makes room for `bytes` from the arena on and returns the memory as floats and as words. */
  reserve(bytes: number): { floats: Float32Array; words: Uint32Array }
  /** The kernels of pictures, which have a memory apart. */
  texels: Texels
  /** The kernels that find what is seen, which have another. */
  surface: SurfaceKernels
  /** Time spent in kernels of all kinds. */
  watch: Watch
}

export async function loadKernels(): Promise<Kernels> {
  const watch: Watch = { spent: 0 }
  const { memory, ...run } = await instantiated(KERNELS)
  const texels = await Texels.load(watch)
  const surface = await SurfaceKernels.load(watch)
  const arena = 65536
  let floats = new Float32Array(memory.buffer)
  let words = new Uint32Array(memory.buffer)
  return {
    run: run as unknown as Kernels['run'],
    arena,
    texels,
    surface,
    watch,
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
