import { MOUSE, OrthographicCamera, PerspectiveCamera, Quaternion, TOUCH, Vector3 } from 'three'
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js'
import { distanceFor, firstSide } from '#core/mesh/framing'
import type { Box } from '#core/mesh/mesh'
import type { Camera } from './sample'

/** From where the mesh is seen: with perspective, or straight along an axis without. */
export type Eye = 'perspective' | 'front' | 'side' | 'top'
const ALONG: Record<Exclude<Eye, 'perspective'>, [number, number, number]> = {
  front: [0, 0, 1],
  side: [1, 0, 0],
  top: [0, 1, 0.0001],
}
type Triple = [number, number, number]
const VERTICAL = new Vector3(0, 1, 0)

/** Another place to see the mesh from than where the camera stands. */
export interface Sight {
  /**
   * By how many degrees the mesh is turned about the vertical through the point that is looked at; the camera goes the
   * other way.
   */
  turn?: number
  /** How often as far away. */
  away?: number
}

/** The cameras of one view of the mesh, and what moves them. */
export class Eyes {
  readonly perspective = new PerspectiveCamera(32, 1, 0.01, 100)
  private readonly orthographic = new OrthographicCamera()
  readonly controls: OrbitControls
  /** The view of the UV layout: seen straight on, moved and zoomed, never turned. */
  readonly flatCamera = new OrthographicCamera(0, 1, 1, 0, -1, 1)
  private readonly flatControls: OrbitControls
  private straight = false
  private isFlat = false
  private enabled = true
  private box: Box = { min: [-1, -1, -1], max: [1, 1, 1] }
  private tiles: readonly number[] = [1001]

  /** @param moved called whenever something is seen from elsewhere */
  constructor(
    canvas: HTMLElement,
    private readonly moved: () => void,
  ) {
    this.controls = new OrbitControls(this.perspective, canvas)
    this.controls.enableDamping = false
    this.controls.addEventListener('change', moved)
    this.flatControls = new OrbitControls(this.flatCamera, canvas)
    this.flatControls.enableDamping = this.flatControls.enableRotate = this.flatControls.enabled = false
    this.flatControls.screenSpacePanning = true
    this.flatControls.mouseButtons = { LEFT: MOUSE.PAN, MIDDLE: MOUSE.DOLLY, RIGHT: MOUSE.PAN }
    this.flatControls.touches = { ONE: TOUCH.PAN, TWO: TOUCH.DOLLY_PAN }
    this.flatControls.addEventListener('change', moved)
  }

  get flat(): boolean {
    return this.isFlat
  }

  /** The camera that sees the mesh. */
  get camera(): Camera {
    if (this.flat) return this.flatCamera
    const { perspective, orthographic, controls } = this
    if (!this.straight) {
      perspective.updateMatrixWorld()
      return perspective
    }
    // It stands where the other stands, and sees as much at the distance that is looked at.
    const distance = perspective.position.distanceTo(controls.target)
    const half = distance * Math.tan((perspective.fov * Math.PI) / 360)
    Object.assign(orthographic, {
      left: -half * perspective.aspect,
      right: half * perspective.aspect,
      top: half,
      bottom: -half,
      near: -perspective.far,
      far: perspective.far,
    })
    orthographic.position.copy(perspective.position)
    orthographic.quaternion.copy(perspective.quaternion)
    orthographic.updateProjectionMatrix()
    orthographic.updateMatrixWorld()
    return orthographic
  }

  /** Meters from the lower to the upper edge of what is seen, at the distance of the point that is looked at. */
  get heightSeen(): number {
    const { perspective, controls } = this
    return 2 * perspective.position.distanceTo(controls.target) * Math.tan((perspective.fov * Math.PI) / 360)
  }

  /** The camera, as it would be from another place. */
  cameraFrom({ turn = 0, away = 1 }: Sight): Camera {
    const { camera } = this
    if (this.flat || (turn === 0 && away === 1)) return camera
    const moved = camera.clone() as Camera
    const { target } = this.controls
    const back = (-turn * Math.PI) / 180
    moved.position.sub(target).multiplyScalar(away).applyAxisAngle(VERTICAL, back).add(target)
    moved.quaternion.premultiply(new Quaternion().setFromAxisAngle(VERTICAL, back))
    if (moved instanceof PerspectiveCamera) moved.far *= Math.max(1, away)
    else moved.zoom /= away
    moved.updateProjectionMatrix()
    moved.updateMatrixWorld()
    return moved
  }

  /** What tells two views apart. */
  get key(): string {
    const { projectionMatrix, matrixWorld } = this.camera
    return [...projectionMatrix.elements, ...matrixWorld.elements].map(x => x.toPrecision(7)).join()
  }

  /** The box of the mesh. */
  set whole(box: Box) {
    this.box = box
  }

  /** Whether dragging moves what is seen. */
  set active(on: boolean) {
    this.enabled = on
    this.controls.enabled = on && !this.flat
    this.flatControls.enabled = on && this.flat
  }

  setFlat(flat: boolean, tiles: readonly number[]): void {
    const was = this.isFlat
    this.isFlat = flat
    this.tiles = tiles
    this.active = this.enabled
    if (flat && !was) this.frame()
  }

  /** Looks with perspective, or straight along an axis without. */
  setEye(eye: Eye): void {
    this.straight = eye !== 'perspective'
    if (eye !== 'perspective') {
      const distance = this.perspective.position.distanceTo(this.controls.target)
      this.perspective.position
        .set(...ALONG[eye])
        .normalize()
        .multiplyScalar(distance)
        .add(this.controls.target)
      this.controls.update()
    }
    this.moved()
  }

  /** Stands where another view's camera stands. */
  follow(other: Eyes): void {
    this.perspective.position.copy(other.perspective.position)
    this.perspective.near = other.perspective.near
    this.perspective.far = other.perspective.far
    this.controls.target.copy(other.controls.target)
    this.perspective.updateProjectionMatrix()
    this.controls.update()
  }

  /**
   * Puts a box, or the whole mesh, into view: from where the camera looks, or as it is looked at first.
   */
  frame(some?: Box): void {
    if (this.flat) return this.frameFlat()
    const { perspective, controls } = this
    const box = some ?? this.box
    const back = some ? perspective.position.clone().sub(controls.target).normalize() : new Vector3(...firstSide(box))
    const middle = middleOf(box)
    const distance = some ? Math.max(this.distanceFor(box, back) * 1.4, 1e-4) : this.distanceFor(box, back)
    controls.target.set(...middle)
    perspective.position.copy(back).multiplyScalar(distance).add(controls.target)
    const whole = this.distanceFor(this.box, back)
    perspective.near = Math.min(distance, whole) / 200
    perspective.far = whole * 20
    perspective.updateProjectionMatrix()
    controls.update()
    this.moved()
  }

  private frameFlat(): void {
    const x = this.tiles.map(t => (t - 1001) % 10)
    const y = this.tiles.map(t => Math.floor((t - 1001) / 10))
    const [left, right, bottom, top] = [Math.min(...x), Math.max(...x) + 1, Math.min(...y), Math.max(...y) + 1]
    const { aspect } = this.perspective
    const half = Math.max((top - bottom) / 2, (right - left) / 2 / aspect) * 1.08
    this.flatCamera.zoom = 1
    Object.assign(this.flatCamera, { left: -half * aspect, right: half * aspect, top: half, bottom: -half })
    this.flatControls.target.set((left + right) / 2, (bottom + top) / 2, 0)
    this.flatCamera.position.set((left + right) / 2, (bottom + top) / 2, 0.5)
    this.flatCamera.updateProjectionMatrix()
    this.flatControls.update()
    this.moved()
  }

  /** How far back along `back` all corners of a box are in view, with a margin. */
  private distanceFor(box: Box, back: Vector3): number {
    const { fov, aspect } = this.perspective
    return distanceFor(box, back.toArray(), fov, aspect)
  }

  /** Takes another shape of the picture: what was in view stays in view, as large as it can. */
  resize(width: number, height: number): void {
    const { perspective, controls, flatCamera } = this
    const back = perspective.position.clone().sub(controls.target).normalize()
    const before = this.distanceFor(this.box, back)
    perspective.aspect = width / height
    const after = this.distanceFor(this.box, back)
    perspective.position
      .sub(controls.target)
      .multiplyScalar(after / before)
      .add(controls.target)
    perspective.updateProjectionMatrix()
    const half = (flatCamera.top - flatCamera.bottom) / 2
    Object.assign(flatCamera, { left: -half * perspective.aspect, right: half * perspective.aspect })
    flatCamera.updateProjectionMatrix()
    this.moved()
  }

  /** Moves the camera around the target by angles in radians, and nearer by a factor: the keyboard's way. */
  orbit(turn: number, tilt: number, zoom = 1): void {
    const { perspective, controls, flatCamera, flatControls } = this
    if (this.flat) {
      const step = (flatCamera.top - flatCamera.bottom) / flatCamera.zoom
      flatCamera.zoom /= zoom
      for (const p of [flatCamera.position, flatControls.target]) p.set(p.x + turn * step, p.y - tilt * step, p.z)
      flatCamera.updateProjectionMatrix()
      flatControls.update()
      return this.moved()
    }
    const offset = perspective.position.clone().sub(controls.target)
    const radius = offset.length() * zoom
    const polar = Math.acos(offset.y / offset.length())
    const angle = Math.atan2(offset.x, offset.z)
    const next = Math.min(Math.PI - 0.02, Math.max(0.02, polar + tilt))
    offset.setFromSphericalCoords(radius, next, angle + turn)
    perspective.position.copy(controls.target).add(offset)
    controls.update()
    this.moved()
  }

  /**
   * Where a point of the surface (or of the UV layout, while that is shown) is in the picture, 0..1 from its upper left
   * corner.
   */
  project(point: readonly [number, number, number]): [number, number] | null {
    const p = new Vector3(...point).project(this.camera)
    return Math.abs(p.z) <= 1 ? [(p.x + 1) / 2, (1 - p.y) / 2] : null
  }

  /** A point moved across the picture, by shares of it, as far from the camera as before. */
  pushed(point: readonly [number, number, number], dx: number, dy: number): Triple {
    const p = new Vector3(...point).project(this.camera)
    return p
      .set(p.x + dx * 2, p.y - dy * 2, p.z)
      .unproject(this.camera)
      .toArray()
  }

  /** The place of the UV layout at a point of the picture. */
  place(x: number, y: number): { u: number; v: number } {
    const at = new Vector3(x * 2 - 1, 1 - y * 2, 0).unproject(this.flatCamera)
    return { u: at.x, v: 1 - at.y }
  }

  dispose(): void {
    this.controls.dispose()
    this.flatControls.dispose()
  }
}

const middleOf = (box: Box): Triple => box.min.map((x, k) => (x + box.max[k]!) / 2) as Triple
