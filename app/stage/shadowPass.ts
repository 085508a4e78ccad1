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

/** Pixels along a side of the map. */
export const SHADOW_SIZE = 1024

/** How far the nearest surface is from the key light, in its own view: what is farther away is in shadow. */
export class ShadowPass {
  private readonly camera = new OrthographicCamera()
  readonly target = new WebGLRenderTarget(SHADOW_SIZE, SHADOW_SIZE, {
    format: RedFormat,
    type: FloatType,
    minFilter: NearestFilter,
    magFilter: NearestFilter,
    generateMipmaps: false,
  })
  /** From the world to the map: x and y from 0 to 1, z the way from the light in meters. */
  readonly matrix = new Matrix4()
  /** Width of the map in meters. */
  extent = 1
  private drawnFor = ''

  constructor(
    renderer: WebGLRenderer,
    private readonly backend: Backend,
  ) {
    this.target.texture.internalFormat = 'R32F'
    renderer.initRenderTarget(this.target)
  }

  /** Draws the map as seen from a light, unless that is there already. @param key tells the mesh and what of it is hidden */
  async draw(from: Vector3, box: Box, key: string): Promise<void> {
    const wanted = `${key} ${from
      .toArray()
      .map(x => x.toFixed(4))
      .join(' ')}`
    if (wanted === this.drawnFor) return
    this.drawnFor = wanted
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
    if (!(await this.backend.depths(camera, this.target))) {
      this.drawnFor = ''
      return
    }
    this.extent = radius * 2
    const toMap = new Matrix4().set(0.5 / radius, 0, 0, 0.5, 0, 0.5 / radius, 0, 0.5, 0, 0, -1, 0, 0, 0, 0, 1)
    this.matrix.copy(toMap).multiply(camera.matrixWorldInverse)
  }

  dispose(): void {
    this.target.dispose()
  }
}
