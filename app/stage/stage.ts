import { BufferAttribute, BufferGeometry, Color, Mesh as ThreeMesh, NeutralToneMapping, PerspectiveCamera, Raycaster, Scene, Vector2, Vector3, WebGLRenderer } from 'three'
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js'
import { Evaluator } from '#core/evaluate/evaluator'
import type { MeshTables } from '#core/evaluate/tables'
import type { Look } from '#core/graph/look'
import { CHANNEL_NAMES } from '#core/graph/types'
import type { Kernels } from '#core/kernels/kernels'
import { boundsOf, type Box } from '#core/mesh/mesh'
import { lower, readParam, signature } from '#core/program/lower'
import { plan } from '#core/program/plan'
import { lookShader, packMaps, packPartTable } from '#core/shader/glsl'
import { overcastLight } from './environment'
import { LookMaterial, VIEWS, type View } from './lookMaterial'

/** The 3D view. Draws only when something has changed. */
export class Stage {
  private readonly renderer: WebGLRenderer
  private readonly scene = new Scene()
  private readonly camera = new PerspectiveCamera(32, 1, 0.01, 100)
  private readonly controls: OrbitControls
  readonly material = new LookMaterial()
  private readonly object = new ThreeMesh(new BufferGeometry(), this.material)
  private tables?: MeshTables
  private evaluator?: Evaluator
  private shape = ''
  private box: Box = { min: [-1, -1, -1], max: [1, 1, 1] }
  private waiting = 0
  /** Called after each frame that was handed to the graphics driver, with the milliseconds that took. */
  drawn?: (submitMs: number) => void

  constructor(readonly canvas: HTMLCanvasElement, private readonly kernels: Kernels) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true })
    this.renderer.toneMapping = NeutralToneMapping
    this.scene.environment = overcastLight(this.renderer)
    this.object.visible = false
    this.object.frustumCulled = false
    this.scene.add(this.object)
    this.controls = new OrbitControls(this.camera, canvas)
    this.controls.enableDamping = false
    this.controls.addEventListener('change', () => this.invalidate())
  }

  setMesh(tables: MeshTables): void {
    const { mesh, parts } = tables, geometry = new BufferGeometry(), count = mesh.positions.length / 3
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    geometry.setAttribute('normal', new BufferAttribute(mesh.normals, 3))
    geometry.setAttribute('ubUvIn', new BufferAttribute(mesh.uvs ?? new Float32Array(count * 2), 2))
    geometry.setAttribute('ubPartIn', new BufferAttribute(Float32Array.from(parts.partOfVertex), 1))
    geometry.setIndex(new BufferAttribute(mesh.indices, 1))
    this.object.geometry.dispose()
    this.object.geometry = geometry
    this.object.visible = true
    this.tables = tables
    this.shape = ''
    this.box = boundsOf(mesh.positions, mesh.indices)
    this.frame()
  }

  /** Shows a look. As long as its graph keeps its shape, only uniforms and the part table are written. */
  setLook(look: Look): void {
    if (!this.tables) return
    const shape = signature(look)
    if (shape !== this.shape || !this.evaluator) {
      const program = lower(look, this.tables.mesh.maps)
      const prepared = plan(program, CHANNEL_NAMES.flatMap(c => program.result[c]))
      this.evaluator = new Evaluator(this.kernels, prepared, this.tables)
      const shader = lookShader(prepared), { geometry } = this.object
      this.material.setShader(shader)
      packMaps(shader.maps, this.tables.mesh).forEach((data, i) => geometry.setAttribute(`ubMap${i}`, new BufferAttribute(data, 4)))
      this.shape = shape
    }
    const changed = this.evaluator.refresh(ref => readParam(look, ref), 'parts')
    this.material.setUniforms(this.evaluator.uniforms)
    if (changed.parts) {
      const { data, height } = packPartTable(this.evaluator.partColumns, this.tables.parts.parts.length)
      this.material.setPartTable(data, height)
    }
    this.invalidate()
  }

  setView(view: View): void {
    this.material.look.ubView.value = VIEWS.indexOf(view)
    this.invalidate()
  }

  setBackground(css: string): void {
    this.scene.background = new Color(css)
    this.invalidate()
  }

  /** Puts the whole mesh into view, from the front, a little right and above. */
  frame(): void {
    const middle = this.box.min.map((x, k) => (x + this.box.max[k]!) / 2) as [number, number, number]
    const back = new Vector3(0.32, 0.16, 1).normalize(), distance = this.distanceFor(middle, back)
    this.controls.target.set(...middle)
    this.camera.position.copy(back).multiplyScalar(distance).add(this.controls.target)
    this.camera.near = distance / 500
    this.camera.far = distance * 20
    this.camera.updateProjectionMatrix()
    this.controls.update()
    this.invalidate()
  }

  /** How far back along `back` all corners of the box are in view, with a margin. */
  private distanceFor(middle: [number, number, number], back: Vector3): number {
    const right = new Vector3(0, 1, 0).cross(back).normalize(), up = back.clone().cross(right)
    const tall = Math.tan(this.camera.fov * Math.PI / 360) * 0.94, wide = tall * this.camera.aspect
    let distance = 1e-3
    for (let i = 0; i < 8; i++) {
      const corner = new Vector3(...middle.map((m, k) => (i >> k & 1 ? this.box.max : this.box.min)[k]! - m) as [number, number, number])
      distance = Math.max(distance, corner.dot(back) + Math.max(Math.abs(corner.dot(right)) / wide, Math.abs(corner.dot(up)) / tall))
    }
    return distance
  }

  resize(width: number, height: number, ratio: number): void {
    if (!width || !height) return
    this.renderer.setPixelRatio(ratio)
    this.renderer.setSize(width, height, false)
    this.camera.aspect = width / height
    this.camera.updateProjectionMatrix()
    this.invalidate()
  }

  /** Moves the camera around the target by angles in radians, and nearer by a factor: the keyboard's way. */
  orbit(turn: number, tilt: number, zoom = 1): void {
    const offset = this.camera.position.clone().sub(this.controls.target)
    const radius = offset.length() * zoom, polar = Math.acos(offset.y / offset.length()), angle = Math.atan2(offset.x, offset.z)
    const next = Math.min(Math.PI - 0.02, Math.max(0.02, polar + tilt))
    offset.setFromSphericalCoords(radius, next, angle + turn)
    this.camera.position.copy(this.controls.target).add(offset)
    this.controls.update()
    this.invalidate()
  }

  /** The ray through a point of the canvas, 0..1 from its upper left corner. */
  ray(x: number, y: number): { origin: [number, number, number], direction: [number, number, number] } {
    const caster = new Raycaster()
    caster.setFromCamera(new Vector2(x * 2 - 1, 1 - y * 2), this.camera)
    return { origin: caster.ray.origin.toArray(), direction: caster.ray.direction.toArray() }
  }

  invalidate(): void {
    this.waiting ||= requestAnimationFrame(() => {
      this.waiting = 0
      const from = performance.now()
      this.renderer.render(this.scene, this.camera)
      this.drawn?.(performance.now() - from)
    })
  }

  /** The stage as it is now, as a small PNG. */
  async picture(width: number, height: number): Promise<Blob | null> {
    this.renderer.render(this.scene, this.camera)
    const { width: w, height: h } = this.canvas, scale = Math.max(width / w, height / h)
    const small = new OffscreenCanvas(width, height), context = small.getContext('2d')
    if (!context) return null
    context.imageSmoothingQuality = 'high'
    context.drawImage(this.canvas, (width - w * scale) / 2, (height - h * scale) / 2, w * scale, h * scale)
    return small.convertToBlob({ type: 'image/png' })
  }

  dispose(): void {
    cancelAnimationFrame(this.waiting)
    this.controls.dispose()
    this.object.geometry.dispose()
    this.material.dispose()
    this.renderer.dispose()
  }
}
