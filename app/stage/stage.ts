import { BufferAttribute, BufferGeometry, Color, Euler, LineBasicMaterial, LineSegments, Mesh as ThreeMesh, MeshBasicMaterial, type MeshStandardMaterial, MOUSE, NeutralToneMapping, OrthographicCamera, PerspectiveCamera, Raycaster, Scene, TOUCH, Vector2, Vector3, WebGLRenderer, WebGLRenderTarget, type Texture } from 'three'
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js'
import type { WholeValues } from '#core/evaluate/gather'
import type { MeshTables } from '#core/evaluate/tables'
import type { Look } from '#core/graph/look'
import type { Kernels } from '#core/kernels/kernels'
import { boundsOf, type Box } from '#core/mesh/mesh'
import { swatchOf } from '#core/color/falseColor'
import { keyOf } from '#core/mesh/hash'
import { InspectMaterial, MODES } from './inspectMaterial'
import { ReferenceBalls } from './balls'
import type { RigName } from '#core/trace/rigs'
import { pictureLight, rigLight } from './environment'
import type { ProbeLook, View } from './lookMaterial'
import { LookView } from './lookView'
import { partTexture, stateTexture } from './partState'

/** What the stage shows instead of the look: a level of the mesh, or one number per vertex. */
export type Inspected = { kind: 'level', level: 'object' | 'group' | 'part' | 'patch' } | { kind: 'values', values: Float32Array, stride: number, offset: number, span: [number, number], falseColors: boolean }
export interface Layout { overlapping: Uint32Array, borders: Uint32Array, tiles: readonly number[] }

/** From where the mesh is seen: with perspective, or straight along an axis without. */
export type Eye = 'perspective' | 'front' | 'side' | 'top'
const ALONG: Record<Exclude<Eye, 'perspective'>, [number, number, number]> = { front: [0, 0, 1], side: [1, 0, 0], top: [0, 1, 0.0001] }

/** The 3D view. Draws only when something has changed. */
export class Stage {
  private readonly renderer: WebGLRenderer
  private readonly scene = new Scene()
  private readonly camera = new PerspectiveCamera(32, 1, 0.01, 100)
  readonly controls: OrbitControls
  /** The view of the UV layout: seen straight on, moved and zoomed, never turned. */
  private readonly flatCamera = new OrthographicCamera(0, 1, 1, 0, -1, 1)
  private readonly flatControls: OrbitControls
  private flat = false
  private readonly layout = { lines: new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: 0x202020, toneMapped: false })), tiles: new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: 0x000000, toneMapped: false })), overlaps: new ThreeMesh(new BufferGeometry(), new InspectMaterial(MODES.hatch)) }
  private readonly inspect = new InspectMaterial()
  private readonly identity = new InspectMaterial(MODES.identity)
  private inspected: Inspected | null = null
  private state?: Texture
  /** The look, and a kept state of it that is seen left of the wipe. */
  private readonly now: LookView
  private kept?: LookView
  private wipe = 0.5
  /** The mesh itself: what it is made of, where the look is not shown. */
  private readonly object = new ThreeMesh(new BufferGeometry(), this.inspect)
  private readonly edges = new ThreeMesh(new BufferGeometry(), new InspectMaterial(MODES.edges))
  private readonly balls = new ReferenceBalls()
  private readonly orthographic = new OrthographicCamera()
  private straight = false
  private view: View = 'finished'
  private probed: ProbeLook = { span: [0, 1], falseColors: false }
  private tables?: MeshTables
  private box: Box = { min: [-1, -1, -1], max: [1, 1, 1] }
  private waiting = 0
  /** Called after each frame that was handed to the graphics driver, with the milliseconds that took. */
  drawn?: (submitMs: number) => void

  constructor(readonly canvas: HTMLCanvasElement, private readonly kernels: Kernels) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true })
    this.renderer.toneMapping = NeutralToneMapping
    this.renderer.autoClear = false
    this.now = new LookView(kernels, () => this.showInspected())
    this.object.visible = this.object.frustumCulled = this.edges.visible = this.edges.frustumCulled = false
    this.edges.material.wireframe = true
    // Just in front of the surface that they lie on.
    Object.assign(this.edges.material, { polygonOffset: true, polygonOffsetFactor: -1, polygonOffsetUnits: -1, transparent: true, opacity: 0.5 })
    this.scene.add(this.object, this.now.object, this.edges)
    this.controls = new OrbitControls(this.camera, canvas)
    this.controls.enableDamping = false
    this.controls.addEventListener('change', () => this.invalidate())
    this.flatControls = new OrbitControls(this.flatCamera, canvas)
    this.flatControls.enableDamping = this.flatControls.enableRotate = this.flatControls.enabled = false
    this.flatControls.screenSpacePanning = true
    this.flatControls.mouseButtons = { LEFT: MOUSE.PAN, MIDDLE: MOUSE.DOLLY, RIGHT: MOUSE.PAN }
    this.flatControls.touches = { ONE: TOUCH.PAN, TWO: TOUCH.DOLLY_PAN }
    this.flatControls.addEventListener('change', () => this.invalidate())
    for (const part of Object.values(this.layout)) {
      part.visible = part.frustumCulled = false
      part.renderOrder = 1
      part.material.depthTest = false
      this.scene.add(part)
    }
    this.layout.overlaps.material.uniforms.ubFlat!.value = true
    this.setParts(new Set(), new Set())
  }

  private get eye(): PerspectiveCamera | OrthographicCamera {
    if (this.flat) return this.flatCamera
    if (!this.straight) return this.camera
    // It stands where the other stands, and sees as much at the distance that is looked at.
    const { camera, orthographic: eye } = this, distance = camera.position.distanceTo(this.controls.target), half = distance * Math.tan(camera.fov * Math.PI / 360)
    Object.assign(eye, { left: -half * camera.aspect, right: half * camera.aspect, top: half, bottom: -half, near: -camera.far, far: camera.far })
    eye.position.copy(camera.position)
    eye.quaternion.copy(camera.quaternion)
    eye.updateProjectionMatrix()
    eye.updateMatrixWorld()
    return eye
  }

  /** Takes a mesh. One with the same vertices as before keeps the camera and all that is on the graphics card. */
  setMesh(tables: MeshTables): void {
    const before = this.tables
    this.tables = tables
    if (before?.mesh.positions === tables.mesh.positions) {
      this.now.setMesh(tables)
      this.kept?.setMesh(tables)
      this.showInspected()
      return
    }
    this.keep(null)
    const { mesh, parts } = tables, geometry = new BufferGeometry(), count = mesh.positions.length / 3
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    geometry.setAttribute('normal', new BufferAttribute(mesh.normals, 3))
    geometry.setAttribute('ubUvIn', new BufferAttribute(mesh.uvs ?? new Float32Array(count * 2), 2))
    geometry.setAttribute('ubPartIn', new BufferAttribute(Float32Array.from(parts.partOfVertex), 1))
    geometry.setAttribute('ubValueIn', new BufferAttribute(new Float32Array(count), 1))
    geometry.setAttribute('ubPatchIn', new BufferAttribute(new Uint8Array(count * 3), 3, true))
    geometry.setIndex(new BufferAttribute(mesh.indices, 1))
    this.object.geometry.dispose()
    this.object.geometry = this.edges.geometry = geometry
    this.now.setMesh(tables, geometry)
    this.layout.overlaps.geometry = this.layout.lines.geometry = new BufferGeometry()
    const { box } = this
    this.box = boundsOf(mesh.positions, mesh.indices)
    this.showInspected()
    // The same mesh refined again stays where it was.
    const same = before && box.min.every((x, k) => Math.abs(x - this.box.min[k]!) < 1e-6) && box.max.every((x, k) => Math.abs(x - this.box.max[k]!) < 1e-6)
    if (!same) this.frame()
    this.invalidate()
  }

  /** Shows a level or a vertex map of the mesh; null shows the look. */
  setInspected(inspected: Inspected | null): void {
    this.inspected = inspected
    this.showInspected()
  }

  private showInspected(): void {
    const { inspected, tables, inspect } = this, { geometry } = this.object
    this.object.visible = Boolean(tables && (inspected || this.flat))
    // Nothing is better than something wrong: a coverage of 0 would cover everything.
    this.now.object.visible = Boolean(tables) && !this.object.visible && this.now.ready
    this.now.material.setView(this.view, this.now.shows, this.probed)
    this.kept?.material.setView(this.view, this.kept.shows, this.probed)
    if (!tables || !inspected) return this.invalidate()
    const { parts } = tables, { uniforms } = inspect
    if (inspected.kind === 'values') {
      const target = geometry.getAttribute('ubValueIn') as BufferAttribute, into = target.array as Float32Array, { values, stride, offset } = inspected
      if (values.length !== into.length * stride) return
      for (let v = 0; v < into.length; v++) into[v] = values[v * stride + offset]!
      target.needsUpdate = true
      uniforms.ubSpan!.value = inspected.span
      uniforms.ubMode!.value = inspected.falseColors ? MODES.falseColor : MODES.gray
    }
    else if (inspected.level === 'patch') {
      this.colorPatches()
      uniforms.ubMode!.value = MODES.patch
    }
    else {
      const { level } = inspected, list = parts.parts
      const keyAt = (i: number) => level === 'part' ? list[i]!.key : level === 'group' ? parts.groups[list[i]!.group]!.key : parts.objectKeys[list[i]!.object]!
      ;(uniforms.ubSwatches!.value as Texture | null)?.dispose()
      uniforms.ubSwatches!.value = partTexture(list.length, (i, bytes, at) => swatchOf(keyAt(i)).forEach((x, k) => { bytes[at + k] = Math.round(x * 255) }))
      uniforms.ubMode!.value = MODES.part
    }
    this.invalidate()
  }

  /**
   * A color for each patch. Flat values come from a triangle's last vertex, so the corners of each triangle are turned
   * until that one belongs to its patch alone; where no corner does, the triangle takes its neighbor's color.
   */
  private colorPatches(): void {
    const { mesh, parts } = this.tables!, { geometry } = this.object, owner = new Int32Array(mesh.positions.length / 3).fill(-1), indices = mesh.indices.slice()
    const target = geometry.getAttribute('ubPatchIn') as BufferAttribute, colors = target.array as Uint8Array, known = new Map<number, number[]>()
    for (let t = 0; t < indices.length / 3; t++) {
      const patch = parts.patchOfTriangle[t]!, corner = [0, 1, 2].map(k => indices[t * 3 + k]!)
      const k = corner.findIndex(v => owner[v] === patch), last = k >= 0 ? k : corner.findIndex(v => owner[v]! < 0)
      if (last < 0) continue
      owner[corner[last]!] = patch
      for (let i = 0; i < 3; i++) indices[t * 3 + i] = corner[(last + 1 + i) % 3]!
      let color = known.get(patch)
      if (!color) known.set(patch, color = swatchOf(keyOf(`patch ${patch}`)).map(x => Math.round(x * 255)))
      colors.set(color, corner[last]! * 3)
    }
    target.needsUpdate = true
    geometry.setIndex(new BufferAttribute(indices, 1))
  }

  /** Which parts are marked as selected and which are hidden. */
  setParts(selected: ReadonlySet<number>, hidden: ReadonlySet<number>): void {
    this.state?.dispose()
    this.state = stateTexture(this.tables?.parts.parts.length ?? 1, selected, hidden)
    for (const view of [this.now, this.kept]) if (view) view.material.look.ubState.value = this.state
    this.inspect.state = this.identity.state = this.edges.material.state = this.layout.overlaps.material.state = this.state
    this.invalidate()
  }

  setAccent(css: string): void {
    this.inspect.uniforms.ubAccent!.value = new Color(css).convertLinearToSRGB().toArray()
    this.invalidate()
  }

  /** Lays the mesh out by its UVs, with tile borders, island borders and overlaps. */
  setFlat(flat: boolean, layout?: Layout | null): void {
    const was = this.flat
    this.flat = flat && Boolean(layout)
    this.controls.enabled = !this.flat
    this.flatControls.enabled = this.flat
    this.inspect.uniforms.ubFlat!.value = this.identity.uniforms.ubFlat!.value = this.flat
    const { lines, tiles, overlaps } = this.layout
    for (const part of [lines, tiles, overlaps]) part.visible = this.flat
    if (this.flat && layout && this.tables) {
      const uvs = this.tables.mesh.uvs!, borderPositions = new Float32Array(layout.borders.length * 3)
      layout.borders.forEach((v, i) => {
        borderPositions[i * 3] = uvs[v * 2]!
        borderPositions[i * 3 + 1] = 1 - uvs[v * 2 + 1]!
      })
      lines.geometry.dispose()
      lines.geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(borderPositions, 3))
      const corners = layout.tiles.flatMap((t) => {
        const x = (t - 1001) % 10, y = Math.floor((t - 1001) / 10)
        return [[x, y], [x + 1, y], [x + 1, y], [x + 1, y + 1], [x + 1, y + 1], [x, y + 1], [x, y + 1], [x, y]].flatMap(c => [...c, 0])
      })
      tiles.geometry.dispose()
      tiles.geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(corners), 3))
      const shared = new BufferGeometry()
      for (const [name, attribute] of Object.entries(this.object.geometry.attributes)) shared.setAttribute(name, attribute)
      shared.setIndex(new BufferAttribute(layout.overlapping, 1))
      overlaps.geometry = shared
      overlaps.visible = layout.overlapping.length > 0
      this.flatTiles = layout.tiles
      if (!was) this.frame()
    }
    this.showInspected()
  }

  private flatTiles: readonly number[] = [1001]

  /** Where a point of the surface (or of the UV layout, while that is shown) is on the canvas, 0..1 from its upper left corner. */
  project(point: readonly [number, number, number]): [number, number] | null {
    const p = new Vector3(...point).project(this.eye)
    return Math.abs(p.z) <= 1 ? [(p.x + 1) / 2, (1 - p.y) / 2] : null
  }

  /** A point moved across the canvas, by shares of it, as far from the camera as before. */
  moved(point: readonly [number, number, number], dx: number, dy: number): [number, number, number] {
    const p = new Vector3(...point).project(this.eye)
    return p.set(p.x + dx * 2, p.y - dy * 2, p.z).unproject(this.eye).toArray()
  }

  /** Half the diagonal of the mesh, in meters. */
  get reach(): number { return Math.hypot(...this.box.max.map((x, k) => x - this.box.min[k]!)) / 2 }

  /** The visible parts inside a rectangle of the canvas, its corners 0..1 from the upper left. */
  partsIn(x0: number, y0: number, x1: number, y1: number): number[] {
    const size = this.renderer.getSize(new Vector2()), w = Math.round(size.x), h = Math.round(size.y)
    const target = new WebGLRenderTarget(w, h), background = this.scene.background, shown = this.alone(this.object)
    this.object.material = this.identity
    this.scene.background = null
    this.renderer.setRenderTarget(target)
    this.renderer.setClearColor(0, 0)
    this.renderer.clear()
    this.renderer.render(this.scene, this.eye)
    const left = Math.max(0, Math.floor(Math.min(x0, x1) * w)), right = Math.min(w, Math.max(left + 1, Math.ceil(Math.max(x0, x1) * w)))
    const bottom = Math.max(0, Math.floor((1 - Math.max(y0, y1)) * h)), top = Math.min(h, Math.max(bottom + 1, Math.ceil((1 - Math.min(y0, y1)) * h)))
    const pixels = new Uint8Array((right - left) * (top - bottom) * 4)
    if (pixels.length) this.renderer.readRenderTargetPixels(target, left, bottom, right - left, top - bottom, pixels)
    this.renderer.setRenderTarget(null)
    target.dispose()
    this.object.material = this.inspect
    this.scene.background = background
    shown()
    const found = new Set<number>()
    for (let i = 0; i < pixels.length; i += 4) {
      const id = pixels[i]! + pixels[i + 1]! * 256 + pixels[i + 2]! * 65536
      if (pixels[i + 3] && id) found.add(id - 1)
    }
    this.invalidate()
    return [...found]
  }

  /** Whether dragging turns the camera: off while a box is drawn. */
  set turning(on: boolean) { (this.flat ? this.flatControls : this.controls).enabled = on }

  /** Shows only one object, until the function that is given back is called. */
  private alone(object: ThreeMesh): () => void {
    const all = this.scene.children, visible = all.map(o => o.visible)
    for (const o of all) o.visible = o === object
    return () => all.forEach((o, i) => { o.visible = visible[i]! })
  }

  /** Shows a look, or a port of it. @returns whether values have to be gathered for it, and brought by `give` */
  setLook(look: Look, port?: string): boolean {
    const waits = this.now.setLook(look, port)
    this.showInspected()
    return waits
  }

  give(shape: string, values: WholeValues): void { this.now.give(shape, values) }
  /** The channels that the look sets. */
  get channels(): ReadonlySet<string> { return this.now.channels }
  get compiled(): number { return this.now.material.compiled + (this.kept?.material.compiled ?? 0) }

  /**
   * Keeps a state of the look beside the one that is worked on; null forgets it.
   * @returns as `setLook`; values come by the function
   */
  keep(look: Look | null): ((shape: string, values: WholeValues) => void) | null {
    if (this.kept && (!look || !this.tables)) {
      this.scene.remove(this.kept.object)
      this.kept.dispose()
      this.kept = undefined
    }
    if (!look || !this.tables) {
      this.invalidate()
      return null
    }
    const kept = this.kept ??= new LookView(this.kernels, () => this.showInspected())
    if (!kept.object.parent) {
      this.scene.add(kept.object)
      kept.material.look.ubState.value = this.state ?? null
      kept.setMesh(this.tables, this.object.geometry)
    }
    const waits = kept.setLook(look)
    this.showInspected()
    return waits ? (shape, values) => kept.give(shape, values) : null
  }
  /** Where on the canvas, 0..1 from the left, the kept state ends. */
  setWipe(at: number): void {
    this.wipe = at
    this.invalidate()
  }

  setView(view: View, probed: ProbeLook = this.probed): void {
    this.view = view
    this.probed = probed
    this.showInspected()
  }

  /** Lights the stage by one of its rigs. */
  setRig(name: RigName): void { this.light(rigLight(this.renderer, name)) }
  /** Lights it by a picture of surroundings. @throws Error with a sentence */
  async setPictureRig(name: string, bytes: ArrayBuffer): Promise<void> { this.light(await pictureLight(this.renderer, name, bytes)) }
  private light(texture: Texture): void {
    this.scene.environment?.dispose()
    this.scene.environment = this.balls.scene.environment = texture
    this.invalidate()
  }
  /** Turns the light about the vertical (degrees), and makes it brighter by a factor. */
  setLight(turn: number, brightness: number): void {
    for (const scene of [this.scene, this.balls.scene]) {
      scene.environmentRotation = new Euler(0, turn * Math.PI / 180, 0)
      scene.environmentIntensity = brightness
    }
    this.invalidate()
  }
  set showsBalls(on: boolean) {
    this.balls.on = on
    this.invalidate()
  }
  set showsEdges(on: boolean) {
    this.edges.visible = on
    this.invalidate()
  }

  /** Looks with perspective, or straight along an axis without. */
  setEye(eye: Eye): void {
    this.straight = eye !== 'perspective'
    if (eye !== 'perspective') {
      const distance = this.camera.position.distanceTo(this.controls.target)
      this.camera.position.set(...ALONG[eye]).normalize().multiplyScalar(distance).add(this.controls.target)
      this.controls.update()
    }
    this.invalidate()
  }

  /** Turns the mesh slowly, once in some 24 seconds, until told otherwise. */
  set spinning(on: boolean) {
    if (on === this.spins > 0) return
    cancelAnimationFrame(this.spins)
    this.spins = 0
    if (!on) return
    let last = performance.now()
    const step = (now: number): void => {
      this.orbit((now - last) / 24_000 * 2 * Math.PI, 0)
      last = now
      this.spins = requestAnimationFrame(step)
    }
    this.spins = requestAnimationFrame(step)
  }
  private spins = 0

  setBackground(css: string): void {
    this.scene.background = new Color(css)
    this.invalidate()
  }

  /** Puts some parts, or the whole mesh, into view: from where the camera looks, or from the front, a little right and above. */
  frame(parts?: Iterable<number>): void {
    if (this.flat) return this.frameFlat()
    const list = parts && this.tables ? [...parts].map(i => this.tables!.parts.parts[i]!) : []
    if (list.length) {
      const box: Box = { min: [0, 1, 2].map(k => Math.min(...list.map(p => p.min[k]!))) as Box['min'], max: [0, 1, 2].map(k => Math.max(...list.map(p => p.min[k]! + p.size[k]!))) as Box['max'] }
      const middle = box.min.map((x, k) => (x + box.max[k]!) / 2) as [number, number, number]
      const back = this.camera.position.clone().sub(this.controls.target).normalize(), radius = Math.hypot(...box.max.map((x, k) => x - middle[k]!))
      this.controls.target.set(...middle)
      this.camera.position.copy(back).multiplyScalar(Math.max(radius * 1.5, 1e-4) / Math.tan(this.camera.fov * Math.PI / 360)).add(this.controls.target)
      this.camera.near = radius / 20
      this.camera.updateProjectionMatrix()
      this.controls.update()
      return this.invalidate()
    }
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

  private frameFlat(): void {
    const x = this.flatTiles.map(t => (t - 1001) % 10), y = this.flatTiles.map(t => Math.floor((t - 1001) / 10))
    const [left, right, bottom, top] = [Math.min(...x), Math.max(...x) + 1, Math.min(...y), Math.max(...y) + 1], aspect = this.camera.aspect
    const half = Math.max((top - bottom) / 2, (right - left) / 2 / aspect) * 1.08
    this.flatCamera.zoom = 1
    Object.assign(this.flatCamera, { left: -half * aspect, right: half * aspect, top: half, bottom: -half })
    this.flatControls.target.set((left + right) / 2, (bottom + top) / 2, 0)
    this.flatCamera.position.set((left + right) / 2, (bottom + top) / 2, 0.5)
    this.flatCamera.updateProjectionMatrix()
    this.flatControls.update()
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
    // What was in view stays in view: a canvas that becomes narrower is seen from farther away.
    const narrow = Math.min(1, this.camera.aspect), next = Math.min(1, width / height)
    if (this.tables && narrow !== next) this.camera.position.sub(this.controls.target).multiplyScalar(narrow / next).add(this.controls.target)
    this.camera.aspect = width / height
    this.camera.updateProjectionMatrix()
    const half = (this.flatCamera.top - this.flatCamera.bottom) / 2
    Object.assign(this.flatCamera, { left: -half * this.camera.aspect, right: half * this.camera.aspect })
    this.flatCamera.updateProjectionMatrix()
    this.invalidate()
  }

  /** Moves the camera around the target by angles in radians, and nearer by a factor: the keyboard's way. */
  orbit(turn: number, tilt: number, zoom = 1): void {
    if (this.flat) {
      const step = (this.flatCamera.top - this.flatCamera.bottom) / this.flatCamera.zoom
      this.flatCamera.zoom /= zoom
      for (const p of [this.flatCamera.position, this.flatControls.target]) p.set(p.x + turn * step, p.y - tilt * step, p.z)
      this.flatCamera.updateProjectionMatrix()
      this.flatControls.update()
      return this.invalidate()
    }
    const offset = this.camera.position.clone().sub(this.controls.target)
    const radius = offset.length() * zoom, polar = Math.acos(offset.y / offset.length()), angle = Math.atan2(offset.x, offset.z)
    const next = Math.min(Math.PI - 0.02, Math.max(0.02, polar + tilt))
    offset.setFromSphericalCoords(radius, next, angle + turn)
    this.camera.position.copy(this.controls.target).add(offset)
    this.controls.update()
    this.invalidate()
  }

  /** The ray through a point of the canvas, 0..1 from its upper left corner; while the UV layout is shown, the place in it. */
  ray(x: number, y: number): { origin: [number, number, number], direction: [number, number, number] } | { u: number, v: number } {
    if (this.flat) {
      const at = new Vector3(x * 2 - 1, 1 - y * 2, 0).unproject(this.flatCamera)
      return { u: at.x, v: 1 - at.y }
    }
    const caster = new Raycaster()
    caster.setFromCamera(new Vector2(x * 2 - 1, 1 - y * 2), this.eye)
    return { origin: caster.ray.origin.toArray(), direction: caster.ray.direction.toArray() }
  }

  invalidate(): void {
    this.waiting ||= requestAnimationFrame(() => {
      this.waiting = 0
      const from = performance.now()
      this.draw()
      this.drawn?.(performance.now() - from)
    })
  }

  private draw(): void {
    const { renderer, scene, eye, now, kept, wipe } = this, size = renderer.getSize(new Vector2())
    renderer.clear()
    if (kept?.ready && now.object.visible) {
      const edge = Math.round(size.x * wipe)
      renderer.setScissorTest(true)
      for (const [view, from, to] of [[kept, 0, edge], [now, edge, size.x]] as const) {
        if (to <= from) continue
        kept.object.visible = view === kept
        now.object.visible = view === now
        renderer.setScissor(from, 0, to - from, size.y)
        renderer.render(scene, eye)
      }
      renderer.setScissorTest(false)
      kept.object.visible = false
      now.object.visible = true
    }
    else renderer.render(scene, eye)
    if (!this.flat) this.balls.draw(renderer, this.camera, size)
  }

  /** The look as the camera sees it now, whatever the stage shows, as a small PNG. */
  async picture(width: number, height: number): Promise<Blob | null> {
    const { now } = this, view = this.view, shown = this.alone(now.object)
    now.material.setView('finished', now.shows, this.probed)
    this.renderer.clear()
    this.renderer.render(this.scene, this.camera)
    now.material.setView(view, now.shows, this.probed)
    shown()
    this.invalidate()
    const { width: w, height: h } = this.canvas, scale = Math.max(width / w, height / h)
    const small = new OffscreenCanvas(width, height), context = small.getContext('2d')
    if (!context) return null
    context.imageSmoothingQuality = 'high'
    context.drawImage(this.canvas, (width - w * scale) / 2, (height - h * scale) / 2, w * scale, h * scale)
    return small.convertToBlob({ type: 'image/png' })
  }

  /** From where the camera looks, and its vertical opening in degrees. */
  get eyePoint(): { from: [number, number, number], to: [number, number, number], angle: number } {
    return { from: this.camera.position.toArray(), to: this.controls.target.toArray(), angle: this.camera.fov }
  }

  /**
   * The look and a delivered GLB, drawn one after the other by the same camera and in the same light, or their base
   * color alone without any. What is not surface has the color of the stage in both.
   * @returns RGBA bytes of both pictures, row by row from the top, and that color
   */
  async proof(glb: ArrayBuffer, view: 'finished' | 'baseColor'): Promise<{ width: number, height: number, stage: Uint8ClampedArray, delivered: Uint8ClampedArray, background: number[] } | null> {
    const { GLTFLoader } = await import('three/examples/jsm/loaders/GLTFLoader.js')
    const { scene: delivered } = await new GLTFLoader().parseAsync(glb, ''), { now, renderer, scene } = this, most = renderer.capabilities.getMaxAnisotropy(), worn: MeshStandardMaterial[] = []
    delivered.traverse((o) => {
      if (!(o instanceof ThreeMesh)) return
      const material = o.material as MeshStandardMaterial
      worn.push(material)
      for (const map of [material.map, material.roughnessMap, material.normalMap, material.emissiveMap]) if (map) map.anisotropy = most
      if (view === 'baseColor') o.material = new MeshBasicMaterial({ map: material.map, color: material.color, vertexColors: material.vertexColors, toneMapped: false })
    })
    const { width, height } = this.canvas, copy = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true }), was = this.view, shown = this.alone(now.object)
    if (!copy) return null
    const read = (): Uint8ClampedArray => {
      copy.drawImage(this.canvas, 0, 0)
      return copy.getImageData(0, 0, width, height).data
    }
    const shoot = (): Uint8ClampedArray => {
      renderer.clear()
      renderer.render(scene, this.camera)
      return read()
    }
    try {
      now.material.setView(view, now.shows, this.probed)
      const stage = shoot()
      now.object.visible = false
      const background = [...shoot().slice(0, 3)]
      scene.add(delivered)
      return { width, height, stage, delivered: shoot(), background }
    }
    finally {
      scene.remove(delivered)
      now.material.setView(was, now.shows, this.probed)
      shown()
      delivered.traverse((o) => {
        if (!(o instanceof ThreeMesh)) return
        o.geometry.dispose()
        ;(o.material as MeshStandardMaterial).dispose()
      })
      for (const m of worn) {
        for (const map of [m.map, m.roughnessMap, m.metalnessMap, m.normalMap, m.emissiveMap, m.aoMap]) map?.dispose()
        m.dispose()
      }
      this.invalidate()
    }
  }

  dispose(): void {
    cancelAnimationFrame(this.waiting)
    this.controls.dispose()
    this.flatControls.dispose()
    for (const part of Object.values(this.layout)) part.geometry.dispose()
    this.state?.dispose()
    this.inspect.dispose()
    this.identity.dispose()
    cancelAnimationFrame(this.spins)
    this.object.geometry.dispose()
    this.edges.material.dispose()
    this.now.dispose()
    this.kept?.dispose()
    this.balls.dispose()
    this.scene.environment?.dispose()
    this.renderer.dispose()
  }
}
