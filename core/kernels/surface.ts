import { KERNELS } from './generated/surfaceBytes'
import { instantiated, KernelMemory, type Watch } from './wasm'

/** The kernels of assembly/surface.ts, where each is described. Addresses are in bytes. */
interface SurfaceRun {
  project(
    positions: number,
    vertices: number,
    count: number,
    sight: number,
    width: number,
    height: number,
    snap: number,
  ): void
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
export class SurfaceKernels extends KernelMemory<SurfaceRun> {
  private positions?: Float32Array
  private indices?: ArrayLike<number>
  private mesh = { positions: 0, indices: 0, vertices: 0, end: BASE }
  private at = BASE

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
    this.floats(mesh.positions, positions.length).set(positions)
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
    this.growTo(this.at, 'What is seen of this mesh does not fit into memory.')
    return address
  }

  /** The address of some numbers. */
  put(numbers: readonly number[]): number {
    const address = this.take(numbers.length * 8)
    new Float64Array(this.memory.buffer, address, numbers.length).set(numbers)
    return address
  }
}
