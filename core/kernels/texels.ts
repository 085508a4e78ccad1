import { KERNELS } from './generated/texelBytes'
import { instantiated, KernelMemory, type Watch } from './wasm'

/** The kernels of assembly/texels.ts, where each is described. Addresses are in bytes, flags 0 or 1. */
export interface TexelRun {
  raster(
    corners: number,
    ids: number,
    count: number,
    size: number,
    from: number,
    to: number,
    repeats: number,
    u0: number,
    v0: number,
    taken: number,
    texel: number,
    triangle: number,
    us: number,
    vs: number,
  ): number
  scatter(column: number, texel: number, values: number, count: number): void
  mark(covered: number, texel: number, count: number): void
  rings(covered: number, ring: number, width: number, height: number, most: number): number
  grow(columns: number, apart: number, count: number, ring: number, width: number, height: number, most: number): void
  unit(x: number, y: number, z: number, count: number): void
  pack(
    out: number,
    step: number,
    wide: number,
    values: number,
    count: number,
    scale: number,
    shift: number,
    curved: number,
    texel: number,
    lane: number,
  ): void
  affine(out: number, values: number, count: number, scale: number, shift: number): void
  halves(out: number, values: number, count: number): void
  apart(out: number, bytes: number, count: number): void
  differences(out: number, bytes: number, count: number): void
  less(out: number, a: number, b: number, count: number): void
  adler(bytes: number, count: number): number
}

/** Bytes beyond every stretch that kernels may touch. */
const ROOM = 64

/** Bytes for stretches that lie one behind the other, each with the room that kernels want. */
export const roomy = (bytes: number): number => (bytes + ROOM + 15) & ~15

/**
 * Kernels for the texels of pictures, with a memory of their own that is given out like a stack. Giving out more may
 * move the memory, so views are asked for anew after each {@link take}.
 */
export class Texels extends KernelMemory<TexelRun> {
  private at = 65536

  static async load(watch: Watch): Promise<Texels> {
    const { memory, ...run } = await instantiated(KERNELS)
    return new Texels(run as unknown as TexelRun, memory, watch)
  }

  /** Everything given out so far; {@link release} takes back what came later. */
  mark(): number {
    return this.at
  }
  release(mark: number): void {
    this.at = mark
  }

  /**
   * The address of `bytes` bytes, 16-byte aligned, contents unknown. Kernels may touch a little on either side.
   * @throws Error in one sentence where there is no room
   */
  take(bytes: number): number {
    const address = this.at + ROOM
    this.at = address + roomy(bytes)
    this.growTo(this.at, 'This does not fit into memory.')
    return address
  }
}
