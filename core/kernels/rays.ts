import { KERNELS } from './generated/rayBytes'
import { compiled, instanceOf, KernelMemory } from './wasm'

/** Where a ray begins, in which direction it goes, of any length, and how far it reaches. */
type RayNumbers = [
  fromX: number,
  fromY: number,
  fromZ: number,
  alongX: number,
  alongY: number,
  alongZ: number,
  far: number,
]
/** The kernels of assembly/rays.ts, where each is described. Addresses are in bytes. */
interface RayRun {
  meets(nodes: number, triangles: number, ...ray: RayNumbers): number
  first(nodes: number, triangles: number, ...ray: [...RayNumbers, front: number]): number
  nearest(nodes: number, triangles: number, x: number, y: number, z: number, far: number): number
  placeOf(): number
  distanceOf(): number
}

/** Where the memory begins that is given out. */
const BASE = 65536
let module: ReturnType<typeof compiled> | undefined

/** Kernels of rays, with a memory for trees that lasts as long as they are used. */
export class RayKernels extends KernelMemory<RayRun> {
  private at = BASE

  constructor() {
    const { memory, ...run } = instanceOf((module ??= compiled(KERNELS)))
    super(run as unknown as RayRun, memory, { spent: 0 })
  }

  /**
   * The address of `bytes` bytes, 16-byte aligned, contents unknown. Giving out more may move the memory.
   * @throws Error in one sentence where there is no room
   */
  take(bytes: number): number {
    const address = this.at
    this.at = address + Math.ceil(bytes / 16) * 16
    this.growTo(this.at, 'This mesh is too large for rays: it does not fit into memory.')
    return address
  }

  /** Where the last ray that was asked for what it first meets ended, or what is nearest: x, y and z. */
  place(): Float64Array {
    return new Float64Array(this.memory.buffer, this.run.placeOf(), 3)
  }
}
