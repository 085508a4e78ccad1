import {
  FloatType,
  Matrix4,
  NearestFilter,
  OrthographicCamera,
  RedFormat,
  Vector3,
  WebGLRenderTarget,
  type WebGLRenderer,
} from 'three'
import type { Box } from '#core/mesh/mesh'
import type { Backend } from './backend'

/**
 * Pixels along a side of the map: of the one that stays, and of the one that is drawn while the light is being turned.
 */
const SIZES = { fine: 1024, quick: 256 } as const
type Fineness = keyof typeof SIZES

const mapTarget = (size: number): WebGLRenderTarget =>
  new WebGLRenderTarget(size, size, {
    format: RedFormat,
    type: FloatType,
    minFilter: NearestFilter,
    magFilter: NearestFilter,
    generateMipmaps: false,
  })

/** How far the nearest surface is from the key light, in its own view: what is farther away is in shadow. */
export class ShadowPass {
  private readonly camera = new OrthographicCamera()
  private readonly maps = { fine: mapTarget(SIZES.fine), quick: mapTarget(SIZES.quick) }
  private fineness: Fineness = 'fine'
  /** From the world to the map: x and y from 0 to 1, z the way from the light in meters. */
  readonly matrix = new Matrix4()
  /** Width of the map in meters. */
  extent = 1
  private readonly drawnFor: Record<Fineness, string> = { fine: '', quick: '' }

  constructor(
    renderer: WebGLRenderer,
    private readonly backend: Backend,
  ) {
    for (const map of Object.values(this.maps)) {
      map.texture.internalFormat = 'R32F'
      renderer.initRenderTarget(map)
    }
  }

  /** The map that was drawn last. */
  get target(): WebGLRenderTarget {
    return this.maps[this.fineness]
  }
  /** Its pixels along a side. */
  get size(): number {
    return SIZES[this.fineness]
  }

  /**
   * Draws the map as seen from a light, unless that is there already.
   * @param key tells the mesh and what of it is hidden
   * @param quick whether fewer pixels will do, since the light is being turned
   */
  async draw(from: Vector3, box: Box, key: string, quick = false): Promise<void> {
    const wanted = `${key} ${from
      .toArray()
      .map(x => x.toFixed(4))
      .join(' ')}`
    const fineness = quick && this.drawnFor.fine !== wanted ? 'quick' : 'fine'
    if (wanted === this.drawnFor[fineness] && fineness === this.fineness) return
    const middle = new Vector3(...(box.min.map((x, k) => (x + box.max[k]!) / 2) as [number, number, number]))
    const radius = Math.hypot(...box.max.map((x, k) => x - box.min[k]!)) / 2 || 1
    const { camera } = this
    Object.assign(camera, { left: -radius, right: radius, top: radius, bottom: -radius, near: 0, far: radius * 4 })
    camera.position
      .copy(from)
      .multiplyScalar(radius * 2)
      .add(middle)
    const steep = Math.abs(from.y) > 0.99
    camera.up.set(0, steep ? 0 : 1, steep ? 1 : 0)
    camera.lookAt(middle)
    camera.updateProjectionMatrix()
    camera.updateMatrixWorld()
    camera.matrixWorldInverse.copy(camera.matrixWorld).invert()
    const there = wanted === this.drawnFor[fineness]
    if (!there && !(await this.backend.depths(camera, this.maps[fineness]))) return
    this.drawnFor[fineness] = wanted
    this.fineness = fineness
    this.extent = radius * 2
    const toMap = new Matrix4().set(0.5 / radius, 0, 0, 0.5, 0, 0.5 / radius, 0, 0.5, 0, 0, -1, 0, 0, 0, 0, 1)
    this.matrix.copy(toMap).multiply(camera.matrixWorldInverse)
  }

  dispose(): void {
    for (const map of Object.values(this.maps)) map.dispose()
  }
}
