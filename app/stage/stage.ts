import { BufferAttribute, BufferGeometry, Color, LineBasicMaterial, LineSegments, Mesh as ThreeMesh, MOUSE, NeutralToneMapping, OrthographicCamera, PerspectiveCamera, Raycaster, Scene, TOUCH, Vector2, Vector3, WebGLRenderer, WebGLRenderTarget, type Texture } from 'three'
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js'
import { Evaluator } from '#core/evaluate/evaluator'
import { Gatherer, type WholeValues } from '#core/evaluate/gather'
import type { MeshTables } from '#core/evaluate/tables'
import type { Look } from '#core/graph/look'
import { CHANNEL_NAMES, type Channel } from '#core/graph/types'
import type { Kernels } from '#core/kernels/kernels'
import { boundsOf, type Box } from '#core/mesh/mesh'
import { lower, reader, signature } from '#core/program/lower'
import { plan } from '#core/program/plan'
import { lookShader, packMaps, packPartTable, type LookShader } from '#core/shader/glsl'
import { overcastLight } from './environment'
import { swatchOf } from '#core/color/falseColor'
import { keyOf } from '#core/mesh/hash'
import { InspectMaterial, MODES } from './inspectMaterial'
import { LookMaterial, VIEWS, type View } from './lookMaterial'
import { partTexture, stateTexture } from './partState'

/** What the stage shows instead of the look: a level of the mesh, or one number per vertex. */
export type Inspected = { kind: 'level', level: 'object' | 'group' | 'part' | 'patch' } | { kind: 'values', values: Float32Array, stride: number, offset: number, span: [number, number], falseColors: boolean }
export interface Layout { overlapping: Uint32Array, borders: Uint32Array, tiles: readonly number[] }

/** A look on the stage: its program on the mesh, and the costly values that it takes from elsewhere. */
interface Shown { shape: string, evaluator: Evaluator, waits: boolean, shader: LookShader, sets: ReadonlySet<Channel>, look: Look }

/** The 3D view. Draws only when something has changed. */
export class Stage {
  private readonly renderer: WebGLRenderer
  private readonly scene = new Scene()
  private readonly camera = new PerspectiveCamera(32, 1, 0.01, 100)
  private readonly controls: OrbitControls
  /** The view of the UV layout: seen straight on, moved and zoomed, never turned. */
  private readonly flatCamera = new OrthographicCamera(0, 1, 1, 0, -1, 1)
  private readonly flatControls: OrbitControls
  private flat = false
  private readonly layout = { lines: new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: 0x202020, toneMapped: false })), tiles: new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: 0x000000, toneMapped: false })), overlaps: new ThreeMesh(new BufferGeometry(), new InspectMaterial(MODES.hatch)) }
  private readonly inspect = new InspectMaterial()
  private readonly identity = new InspectMaterial(MODES.identity)
  private inspected: Inspected | null = null
  private state?: Texture
  readonly material = new LookMaterial()
  private readonly object = new ThreeMesh<BufferGeometry, LookMaterial | InspectMaterial>(new BufferGeometry(), this.material)
  private tables?: MeshTables
  private shown?: Shown
  /** A look of another shape that waits for values that a worker gathers; until then what is shown stays. */
  private coming?: Shown
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

  private get eye(): PerspectiveCamera | OrthographicCamera { return this.flat ? this.flatCamera : this.camera }

  /** Takes a mesh. One with the same vertices as before keeps the camera and all that is on the graphics card. */
  setMesh(tables: MeshTables): void {
    const before = this.tables
    this.tables = tables
    this.coming = undefined
    if (before?.mesh.positions === tables.mesh.positions) {
      // What is shown stays until the look has been made ready for the new maps and parts.
      if (this.shown) this.shown.shape = ''
      this.showInspected()
      return
    }
    this.shown = undefined
    const { mesh, parts } = tables, geometry = new BufferGeometry(), count = mesh.positions.length / 3
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    geometry.setAttribute('normal', new BufferAttribute(mesh.normals, 3))
    geometry.setAttribute('ubUvIn', new BufferAttribute(mesh.uvs ?? new Float32Array(count * 2), 2))
    geometry.setAttribute('ubPartIn', new BufferAttribute(Float32Array.from(parts.partOfVertex), 1))
    geometry.setAttribute('ubValueIn', new BufferAttribute(new Float32Array(count), 1))
    geometry.setAttribute('ubPatchIn', new BufferAttribute(new Uint8Array(count * 3), 3, true))
    geometry.setIndex(new BufferAttribute(mesh.indices, 1))
    this.object.geometry.dispose()
    this.object.geometry = geometry
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
    this.object.material = inspected || this.flat ? inspect : this.material
    this.object.visible = Boolean(tables) && (this.object.material === inspect || this.shown !== undefined)
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
    this.material.look.ubState.value = this.inspect.state = this.identity.state = this.layout.overlaps.material.state = this.state
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

  /** The visible parts inside a rectangle of the canvas, its corners 0..1 from the upper left. */
  partsIn(x0: number, y0: number, x1: number, y1: number): number[] {
    const size = this.renderer.getSize(new Vector2()), w = Math.round(size.x), h = Math.round(size.y)
    const target = new WebGLRenderTarget(w, h), background = this.scene.background, material = this.object.material
    const visible = Object.values(this.layout).map(p => p.visible)
    Object.values(this.layout).forEach((p) => { p.visible = false })
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
    this.object.material = material
    this.scene.background = background
    Object.values(this.layout).forEach((p, i) => { p.visible = visible[i]! })
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

  /**
   * Shows a look. As long as its graph keeps its shape, only uniforms and the part table are written.
   * @returns whether values have to be gathered for it elsewhere, and brought by `give`
   */
  setLook(look: Look): boolean {
    if (!this.tables) return false
    const shape = signature(look)
    if (shape === this.shown?.shape) this.coming = undefined
    else if (shape !== this.coming?.shape) {
      const program = lower(look, this.tables.mesh.maps), prepared = plan(program, CHANNEL_NAMES.flatMap(c => program.result[c]))
      const gatherer = new Gatherer(this.kernels, program, this.tables, 'given')
      this.coming = { shape, evaluator: new Evaluator(this.kernels, prepared, this.tables, gatherer), waits: gatherer.costly(prepared.roots).length > 0, shader: lookShader(prepared), sets: program.sets, look }
    }
    const shown = this.coming ?? this.shown!
    shown.look = look
    if (!this.coming) this.refresh()
    else if (!shown.waits) this.change()
    // Nothing is better than something wrong: a coverage of 0 would cover everything.
    else if (!this.shown) this.showInspected()
    return shown.waits
  }

  /** Takes what was gathered for a look of some shape. */
  give(look: Look, values: WholeValues): void {
    const shape = signature(look), target = this.coming?.shape === shape ? this.coming : this.shown?.shape === shape ? this.shown : undefined
    if (!target) return
    target.evaluator.gatherer.give(values)
    if (target === this.coming) this.change()
    else if (values.length) {
      if (values.some(v => typeof v.value !== 'number')) this.writeMaps()
      this.refresh()
    }
  }
  /** The channels that the look sets. */
  get channels(): ReadonlySet<Channel> { return (this.coming ?? this.shown)?.sets ?? new Set() }

  /** Compiles what comes, and shows it. */
  private change(): void {
    this.shown = this.coming!
    this.coming = undefined
    this.material.setShader(this.shown.shader, this.shown.sets)
    this.material.setPictures(this.tables!.pictures ?? [])
    this.showInspected()
    this.writeMaps()
    this.refresh(true)
  }

  private writeMaps(): void {
    const { shader: { maps }, evaluator: { gatherer } } = this.shown!, { geometry } = this.object
    packMaps(maps, this.tables!.mesh, ref => gatherer.valueOf(ref) as Float32Array).forEach((data, i) => {
      const old = geometry.getAttribute(`ubMap${i}`) as BufferAttribute | undefined
      if (old?.array.length !== data.length) geometry.setAttribute(`ubMap${i}`, new BufferAttribute(data, 4))
      else {
        old.array.set(data)
        old.needsUpdate = true
      }
    })
  }

  private refresh(all = false): void {
    const { evaluator, look } = this.shown!, read = reader(look)
    evaluator.gatherer.refresh(read)
    const changed = evaluator.refresh(read, 'parts')
    this.material.setUniforms(evaluator.uniforms)
    if (changed.parts || all) this.writeParts(evaluator)
    this.invalidate()
  }

  private writeParts({ partColumns, tables }: Evaluator): void {
    const { data, height } = packPartTable(partColumns, tables.parts.parts.length)
    this.material.setPartTable(data, height)
  }

  setView(view: View): void {
    this.material.look.ubView.value = VIEWS.indexOf(view)
    this.invalidate()
  }

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
    caster.setFromCamera(new Vector2(x * 2 - 1, 1 - y * 2), this.camera)
    return { origin: caster.ray.origin.toArray(), direction: caster.ray.direction.toArray() }
  }

  invalidate(): void {
    this.waiting ||= requestAnimationFrame(() => {
      this.waiting = 0
      const from = performance.now()
      this.renderer.render(this.scene, this.eye)
      this.drawn?.(performance.now() - from)
    })
  }

  /** The look as the camera sees it now, whatever the stage shows, as a small PNG. */
  async picture(width: number, height: number): Promise<Blob | null> {
    const { material } = this.object, visible = Object.values(this.layout).map(p => p.visible)
    this.object.material = this.material
    Object.values(this.layout).forEach((p) => { p.visible = false })
    this.renderer.render(this.scene, this.camera)
    this.object.material = material
    Object.values(this.layout).forEach((p, i) => { p.visible = visible[i]! })
    this.invalidate()
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
    this.flatControls.dispose()
    for (const part of Object.values(this.layout)) part.geometry.dispose()
    this.state?.dispose()
    this.inspect.dispose()
    this.identity.dispose()
    this.object.geometry.dispose()
    this.material.dispose()
    this.renderer.dispose()
  }
}
