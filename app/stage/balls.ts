import {
  Mesh,
  MeshStandardMaterial,
  PerspectiveCamera,
  Scene,
  SphereGeometry,
  Vector3,
  type Vector2,
  type WebGLRenderer,
} from 'three'
import { drawInto, drawIntoAll } from './smoothCanvas'

/** A matte ball that reflects 18 % and a mirror ball, in the lower left corner, under the light of the stage. */
export class ReferenceBalls {
  readonly scene = new Scene()
  private readonly camera = new PerspectiveCamera(14, 2, 1, 40)
  private readonly ball = new SphereGeometry(1, 48, 32)
  private readonly all = [
    new Mesh(this.ball, new MeshStandardMaterial({ color: 0xffffff, roughness: 1, metalness: 0 })),
    new Mesh(this.ball, new MeshStandardMaterial({ color: 0xffffff, roughness: 0, metalness: 1 })),
  ]

  on = false

  constructor() {
    this.all[0]!.material.color.setScalar(0.18)
    this.scene.add(...this.all)
  }

  /** Draws them over what is there, as a camera that looks the same way sees them. */
  draw(renderer: WebGLRenderer, like: PerspectiveCamera, size: Vector2): void {
    if (!this.on) return
    const tall = Math.min(96, size.y / 3)
    this.camera.quaternion.copy(like.quaternion)
    this.all.forEach((ball, i) =>
      ball.position.copy(new Vector3(i ? 1.1 : -1.1, 0, -18).applyQuaternion(like.quaternion)),
    )
    this.camera.updateMatrixWorld()
    drawInto(renderer, { x: 0, y: 0, width: tall * 2, height: tall })
    renderer.clearDepth()
    renderer.render(this.scene, this.camera)
    drawIntoAll(renderer)
  }

  dispose(): void {
    this.ball.dispose()
    for (const { material } of this.all) material.dispose()
  }
}
