import { BufferAttribute, BufferGeometry } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { RayKernels } from '../kernels/rays'
import { widened } from './wideTree'

/** Numbers of a triangle that is laid out for the kernels: three corners. */
const OF_TRIANGLE = 9

/** Triangles that rays can meet, or be nearest. One tree serves one thread: where the last ray ended is kept in it. */
export class RayTree {
  private readonly kernels: RayKernels
  private readonly nodes: number
  private readonly bytesOfNodes: number
  private wide?: number
  private readonly triangles: number
  /** The triangle of each number that the kernels give. */
  private readonly order: ArrayLike<number> | undefined

  /**
   * @param positions x, y, z per vertex
   * @param indices three vertices of each triangle; they are sorted by their places unless `keep` is set
   * @param kernels whose memory is shared with other trees, as long as all of them last
   * @throws Error in one sentence where there is no room
   */
  constructor(
    positions: Float32Array,
    private readonly indices: Uint32Array,
    { keep = false, kernels = new RayKernels() }: { keep?: boolean; kernels?: RayKernels },
  ) {
    this.kernels = kernels
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(positions, 3))
    geometry.setIndex(new BufferAttribute(indices, 1))
    // A geometry without groups has one root.
    const tree = new MeshBVH(geometry, { indirect: keep })
    const { roots, indirectBuffer } = MeshBVH.serialize(tree, { cloneBuffers: false })
    const [root] = roots as [ArrayBuffer]
    const count = indices.length / 3
    this.bytesOfNodes = root.byteLength
    this.order = indirectBuffer ?? undefined
    this.nodes = kernels.take(root.byteLength)
    this.triangles = kernels.take(count * OF_TRIANGLE * 4)
    kernels.bytes(this.nodes, root.byteLength).set(new Uint8Array(root))
    const corners = kernels.floats(this.triangles, count * OF_TRIANGLE)
    for (let i = 0; i < count; i++) {
      const triangle = this.triangleOf(i)
      for (let c = 0; c < 3; c++) {
        const at = indices[triangle * 3 + c]! * 3
        const to = i * OF_TRIANGLE + c * 3
        corners[to] = positions[at]!
        corners[to + 1] = positions[at + 1]!
        corners[to + 2] = positions[at + 2]!
      }
    }
  }

  /** Lays out the tree for rays that ask only whether they meet anything. @returns its address */
  private widen(): number {
    const wide = widened(this.kernels.bytes(this.nodes, this.bytesOfNodes).slice().buffer)
    const nodes = this.kernels.take(wide.byteLength)
    this.kernels.bytes(nodes, wide.byteLength).set(wide)
    return nodes
  }

  private triangleOf(number: number): number {
    return this.order ? this.order[number]! : number
  }

  /**
   * Whether a ray meets anything within `far` of where it begins, from either side. Its direction is of any length;
   * `far` is in the unit of the positions.
   */
  meets(
    fromX: number,
    fromY: number,
    fromZ: number,
    alongX: number,
    alongY: number,
    alongZ: number,
    far: number,
  ): boolean {
    const { triangles } = this
    const nodes = (this.wide ??= this.widen())
    return this.kernels.run.meets(nodes, triangles, fromX, fromY, fromZ, alongX, alongY, alongZ, far) !== 0
  }

  /**
   * The first triangle that a ray meets within `far` of where it begins; -1 where it meets none.
   * @param front whether only those count whose front it comes to
   */
  first(
    fromX: number,
    fromY: number,
    fromZ: number,
    alongX: number,
    alongY: number,
    alongZ: number,
    far: number,
    front = false,
  ): number {
    const { nodes, triangles } = this
    const { run } = this.kernels
    const number = run.first(nodes, triangles, fromX, fromY, fromZ, alongX, alongY, alongZ, far, front ? 1 : 0)
    return number < 0 ? -1 : this.triangleOf(number)
  }

  /** The triangle that is nearest to a place; -1 where none is nearer than `far`. */
  nearest(x: number, y: number, z: number, far = Infinity): number {
    const number = this.kernels.run.nearest(this.nodes, this.triangles, x, y, z, far)
    return number < 0 ? -1 : this.triangleOf(number)
  }

  /** How far the ray of {@link first} went, where it met something; or how far away what is {@link nearest} is. */
  get distance(): number {
    return this.kernels.run.distanceOf()
  }
  /** Where that is, x, y and z: to be read before what is asked next. */
  get place(): Float64Array {
    return this.kernels.place()
  }

  /** One of the three vertices of a triangle. */
  corner(triangle: number, which: number): number {
    return this.indices[triangle * 3 + which]!
  }
}
