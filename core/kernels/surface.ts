import { KERNELS } from './generated/surfaceBytes'
import { instantiated, type Watch } from './wasm'

/** The kernels of assembly/surface.ts, where each is described. Addresses are in bytes. */
interface SurfaceRun {
  project(positions: number, vertices: number, count: number, sight: number, width: number, height: number): void
  draw(
    indices: number,
    triangles: number,
    skip: number,
    vertices: number,
    width: number,
    first: number,
    rows: number,
    near: number,
    depths: number,
    seen: number,
    before: number,
  ): void
  ground(
    world: number,
    view: number,
    near: number,
    x: number,
    y: number,
    z: number,
    reach: number,
    width: number,
    height: number,
    first: number,
    rows: number,
    depths: number,
    seen: number,
    before: number,
    word: number,
  ): void
  ways(out: number, depths: number, count: number): void
  clear(depths: number, count: number): void
}

/** Bytes of a vertex that is put into pixels. */
const VERTEX = 48
/** Where the memory begins that is given out. */
const BASE = 65536

/**
 * Kernels that find what is seen of a mesh, with a memory of their own. The mesh stays in it until another is taken,
 * for many pictures of it are drawn; behind it lies what one picture needs, given out like a stack.
 */
export class SurfaceKernels {
  private positions?: Float32Array
  private indices?: ArrayLike<number>
  private mesh = { positions: 0, indices: 0, vertices: 0, end: BASE }
  private at = BASE
  private constructor(
    readonly run: SurfaceRun,
    private readonly memory: { buffer: ArrayBuffer; grow(pages: number): number },
    private readonly watch: Watch,
  ) {}

  static async load(watch: Watch): Promise<SurfaceKernels> {
    const { memory, ...run } = await instantiated(KERNELS)
    return new SurfaceKernels(run as unknown as SurfaceRun, memory, watch)
  }

  /**
   * Begins a picture: what the one before was given is free, and the mesh is there.
   * @param positions three numbers for each vertex
   * @param indices three for each triangle
   * @returns the addresses of its positions and indices, and of room for its vertices in pixels
   * @throws Error in one sentence where there is no room
   */
  begin(positions: Float32Array, indices: ArrayLike<number>): { positions: number; indices: number; vertices: number } {
    if (this.positions === positions && this.indices === indices) {
      this.at = this.mesh.end
      return this.mesh
    }
    this.positions = undefined
    this.at = BASE
    const mesh = {
      positions: this.take(positions.byteLength),
      indices: this.take(indices.length * 4),
      vertices: this.take((positions.length / 3) * VERTEX),
      end: this.at,
    }
    new Float32Array(this.memory.buffer, mesh.positions, positions.length).set(positions)
    this.words(mesh.indices, indices.length).set(indices)
    this.mesh = mesh
    this.positions = positions
    this.indices = indices
    return mesh
  }

  /** The address of `bytes` bytes, 16-byte aligned, contents unknown. Giving out more may move the memory. */
  take(bytes: number): number {
    const address = this.at
    this.at = address + Math.ceil(bytes / 16) * 16
    const missing = this.at - this.memory.buffer.byteLength
    if (missing > 0) {
      try {
        this.memory.grow(Math.ceil(missing / 65536))
      } catch {
        throw new Error('What is seen of this mesh does not fit into memory.')
      }
    }
    return address
  }

  /** The address of some numbers. */
  put(numbers: readonly number[]): number {
    const address = this.take(numbers.length * 8)
    new Float64Array(this.memory.buffer, address, numbers.length).set(numbers)
    return address
  }

  words(address: number, count: number): Uint32Array {
    return new Uint32Array(this.memory.buffer, address, count)
  }
  bytes(address: number, count: number): Uint8Array {
    return new Uint8Array(this.memory.buffer, address, count)
  }
  floats(address: number, count: number): Float32Array {
    return new Float32Array(this.memory.buffer, address, count)
  }

  /** Runs kernels and notes the time they take. */
  timed(work: (run: SurfaceRun) => void): void {
    const { watch } = this
    const begun = watch.clock?.() ?? 0
    work(this.run)
    if (watch.clock) watch.spent += watch.clock() - begun
  }
}
