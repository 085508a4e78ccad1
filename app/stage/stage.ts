import * as Comlink from 'comlink'
import { Color, Vector2, type Texture } from 'three'
import type { WholeValues } from '#core/evaluate/gather'
import { boxOf, type MeshTables } from '#core/evaluate/tables'
import { GROUND, picturesOf, SEEN_WORDS } from '#core/evaluate/visible'
import type { Look } from '#core/graph/look'
import type { Kernels } from '#core/kernels/kernels'
import { lower } from '#core/program/lower'
import { typicalDepth } from '#core/light/shade'
import type { Box } from '#core/mesh/mesh'
import type { Surroundings } from '#core/trace/light'
import type { RigName } from '#core/trace/rigs'
import { othersWork, stageIsWorking } from './turns'
import type { LookSlot } from './slots'
import { drawInto, drawIntoAll } from './smoothCanvas'
import type { Passes, Standing, Switches } from './standing'
import { narrowed, readHalves, readShares } from './readPicture'
import { aside } from '../shared/crew'
import type { PictureApi } from './picture.worker'
import { seenIn } from './seenIn'
import { SheetTiles } from './sheetTiles'
import { ReferenceBalls } from './balls'
import type { Backend, LoweredLook } from './backend'
import { putBackEasel, type Easel } from './easel'
import { pictureLight, rigLight, type Light, type Sharpness } from './environment'
import { EvaluateInWorkers } from './evaluateInWorkers'
import { EvaluateOnCard, finished } from './evaluateOnCard'
import type { Eye } from './eyes'
import type { CageSurfaces } from '#core/dense/cage'
import type { Inspected, Layout } from './inspected'
import { InspectPass } from './inspectPass'
import { LayoutView } from './layoutView'
import { MeshLines } from './meshLines'
import type { Lighting, ProbeLook, View } from './lightPass'
import { Pane, SAMPLES } from './pane'
import { stateTexture } from './partState'
import { proofOf, type Proof, type ProofAsked } from './proof'
import { ShadowPass } from './shadowPass'
import { ShownLook } from './shownLook'
import { ShownMesh } from './shownMesh'
import { warmUp } from './warmUp'

export type { Eye } from './eyes'
export type { Inspected, Layout } from './inspected'

/** How long nothing has to change before a picture is refined, in milliseconds. */
const REST = 160
/** How often it is looked whether the stage has come to rest, in milliseconds. */
const SETTLES = 50
/** How long it is waited for the page to take a picture, in milliseconds. */
const DRAWN_WAITS = 500
/** How long a picture of the project waits for the stage's own, in milliseconds. */
const PICTURE_WAITS = 30_000

/** How many pixels a proof may have along each side of one of the stage's, and how many in all. */
const FINER = [4, 2]
const FINER_PIXELS = 8e6

const makePictureWorker = (): Worker => new Worker(new URL('./picture.worker.ts', import.meta.url), { type: 'module' })

export interface StageSettings {
  backend: 'card' | 'workers'
  /** Whether the graphics card is made of software, so that little is to be asked of it. */
  software: boolean
  threads: number
}

/**
 * The 3D view: surface, evaluate, light, and rest. Works only when something has changed, until the picture is final.
 */
export class Stage implements Passes {
  readonly canvas: Easel['canvas']
  readonly renderer: Easel['renderer']
  readonly full: Easel['full']
  readonly light: Easel['light']
  readonly shadow: ShadowPass
  readonly contact: Easel['contact']
  readonly backend: Backend
  readonly looks: { now: ShownLook } & Partial<Record<LookSlot, ShownLook>>
  readonly mesh: ShownMesh
  box: Box = { min: [-1, -1, -1], max: [1, 1, 1] }
  typical = 1
  wipe = 0.5
  private readonly panes: [Pane, ...Pane[]]
  readonly present: Easel['present']
  readonly inspect: InspectPass
  private readonly layout: LayoutView
  private readonly lines = new MeshLines()
  private readonly smooth: Easel['smooth']
  private readonly balls = new ReferenceBalls()
  private tables?: MeshTables
  private state?: Texture
  private selected = false
  private rigs: { first?: Light; second?: Light } = {}
  private turn = 0
  private brightness = 1
  private view: View = 'finished'
  private probed: ProbeLook = { span: [0, 1], falseColors: false }
  /** The background encoded for display, and as colors of three.js are. */
  private readonly background = new Color()
  private readonly clear = new Color()
  private switches: Switches = { shadows: true, contact: true, ground: true, smooth: true }
  private linked = true
  private readonly versions = { mesh: 0, hidden: 0, light: 0, keys: 0 }
  private changedAt = 0
  private working = false
  private again = false
  private timer?: ReturnType<typeof setTimeout>
  private waiting = 0
  private compiling = false
  private final = false
  private gone = false
  private spins = 0
  private bounds = { width: 0, height: 0, ratio: 1 }
  /** Called after each frame that was handed to the graphics driver. */
  drawn?: (standing: Standing) => void
  /** Called when the picture that is shown is final no more. */
  outdated?: () => void

  /** @param easel what it draws on; it is given back at the end */
  constructor(
    private readonly easel: Easel,
    kernels: Kernels,
    settings: StageSettings,
  ) {
    const { canvas } = easel
    this.canvas = canvas
    this.renderer = easel.renderer
    this.full = easel.full
    this.light = easel.light
    this.contact = easel.contact
    this.present = easel.present
    this.smooth = easel.smooth
    this.sharpness = settings.software ? 64 : 256
    const changed = (): void => this.touch()
    this.backend =
      settings.backend === 'card'
        ? new EvaluateOnCard(this.renderer, kernels, () => this.eyes.camera, changed, !settings.software)
        : new EvaluateInWorkers(this.renderer, settings.threads)
    this.shadow = new ShadowPass(this.renderer, this.backend)
    this.mesh = new ShownMesh(this.backend)
    this.inspect = new InspectPass(this.full, this.mesh.colors)
    this.layout = new LayoutView(this.mesh)
    this.looks = { now: new ShownLook(kernels, this.backend, 'now', changed) }
    this.kernels = kernels
    this.panes = [
      new Pane(
        canvas,
        this,
        () => this.lighting(this.rigs.first),
        () => this.moved(0),
      ),
    ]
    canvas.addEventListener('pointerdown', this.choosePane, { capture: true })
    canvas.addEventListener('wheel', this.choosePane, { capture: true, passive: true })
    this.setParts(new Set(), new Set())
    this.tiles = new SheetTiles(this, kernels, this.sharpness, () => ({
      tables: this.rigs.first && this.tables,
      viewKey: this.viewKey,
      turn: this.turn,
      pane: this.panes[0],
    }))
  }

  /** Small pictures of other looks. */
  readonly tiles: SheetTiles

  private readonly kernels: Kernels
  private readonly sharpness: Sharpness

  get eyes(): Pane['eyes'] {
    return this.panes[0].eyes
  }
  get samples(): number {
    return this.switches.smooth ? SAMPLES : 1
  }
  get surfaceKey(): string {
    return `${this.versions.mesh} ${this.versions.hidden} ${this.switches.ground}`
  }
  get lightKey(): string {
    return String(this.versions.light)
  }
  get compiled(): number {
    return this.backend.compiled
  }
  nextKey(): number {
    return ++this.versions.keys
  }

  private lighting(rig: Light | undefined): Lighting {
    const { turn, brightness, view, probed, background, switches } = this
    const shows = this.looks.now.shows
    return {
      environment: rig?.texture ?? null!,
      key: rig?.key ?? { from: [0, 1, 0], irradiance: [0, 0, 0], radius: 0.1, onGround: [1, 1, 1] },
      turn,
      brightness,
      view,
      probed,
      background,
      ...switches,
      widens: true,
      tilts: Object.values(this.looks).some(l => l?.lowered?.sets.has('height')),
      bends: Object.values(this.looks).some(l => l?.lowered?.program.normals),
      ...(shows && { shows }),
    }
  }

  // ---- What is seen ----

  /** Takes a mesh. One with the same vertices as before keeps the camera and the pictures. */
  setMesh(tables: MeshTables): void {
    const before = this.tables
    this.tables = tables
    const same =
      before?.mesh.positions === tables.mesh.positions && before.parts.partOfTriangle === tables.parts.partOfTriangle
    const { box } = this
    if (!same) this.box = boxOf(tables)
    stageIsWorking(!this.layout.on)
    this.backend.setMesh(tables, this.box, same)
    if (!same) this.keep(null)
    for (const look of Object.values(this.looks)) look?.setMesh(tables, same)
    this.mesh.setMesh(tables, same)
    this.layout.setMesh(tables)
    this.lines.setMesh(tables)
    if (same) return this.touch()
    const sizes = tables.parts.parts.map(p => Math.hypot(...p.size)).sort((a, b) => a - b)
    this.typical = typicalDepth(sizes)
    this.versions.mesh++
    for (const pane of this.panes) pane.eyes.whole = this.box
    // The same mesh refined again stays where it was.
    const stays =
      before &&
      box.min.every((x, k) => Math.abs(x - this.box.min[k]!) < 1e-6) &&
      box.max.every((x, k) => Math.abs(x - this.box.max[k]!) < 1e-6)
    if (!stays) this.frame()
    this.fresh = true
    this.touch()
  }

  /** Shows how far the rays reach that look for a dense mesh; undefined shows nothing of it. */
  setCage(cage: CageSurfaces | undefined): void {
    this.lines.setCage(cage)
    this.redraw()
  }
  /** Shows a level or a vertex map of the mesh; null shows the look. */
  setInspected(inspected: Inspected | null): void {
    this.mesh.show(inspected)
    this.touch()
  }

  /** Which parts are marked as selected and which are hidden. */
  setParts(selected: ReadonlySet<number>, hidden: ReadonlySet<number>): void {
    this.state?.dispose()
    this.state = stateTexture(this.tables?.parts.parts.length ?? 1, selected, hidden)
    this.selected = selected.size > 0
    this.present.state = this.lines.state = this.mesh.colors.uniforms.ubState.value = this.state
    this.mesh.colored++
    const key = [...hidden].sort((a, b) => a - b).join()
    // A selection is an outline over the picture that is there, or colors of its parts.
    if (key === this.hiddenParts) return this.mesh.on ? this.touch() : this.redraw()
    this.hiddenParts = key
    this.versions.hidden++
    this.backend.setHidden(hidden)
    this.touch()
  }

  private hiddenParts = ''

  setAccent(css: string): void {
    const rgb = new Color(css).convertLinearToSRGB().toArray()
    this.present.accent = this.lines.accent = rgb
    this.mesh.colors.uniforms.ubAccent.value.fromArray(rgb)
    this.mesh.colored++
    if (this.mesh.on) this.touch()
    else this.redraw()
  }

  /** Lays the mesh out by its UVs, with tile borders, island borders and overlaps. */
  setFlat(flat: boolean, layout?: Layout | null): void {
    const on = flat && Boolean(layout)
    this.layout.set(on ? layout! : undefined)
    this.eyes.setFlat(on, layout?.tiles ?? [1001])
    this.touch()
  }

  /** A look will be shown on a mesh that is still on its way: what can be made ready without one is. */
  expect(look: Look): void {
    this.backend.expect(look)
    const program = lower(look, [])
    this.warm({ pictures: picturesOf(program), sets: program.sets, program })
  }

  /** Whether a look, or a port of it, differs from what is shown in numbers alone. */
  fits(look: Look, port?: string): boolean {
    return this.looks.now.fits(look, port)
  }

  /** Shows a look, or a port of it. @returns whether values have to be gathered for it, and brought by `give` */
  setLook(look: Look, port?: string): boolean {
    const waits = this.looks.now.setLook(look, port)
    const { coming } = this.looks.now
    if (!waits || !coming) return waits
    this.warm(coming)
    if (!this.looks.now.lowered && this.rigs.first) for (const pane of this.panes) pane.foresee()
    return waits
  }

  /** The shaders that light a look are compiled while its values are found out. */
  private warm(expected: Pick<LoweredLook, 'pictures' | 'sets' | 'program'>): void {
    const { pictures, sets, program } = expected
    const { first } = this.rigs
    this.expected = expected
    const key = `${pictures.join()} ${sets.has('height')} ${Boolean(program.normals)}`
    if (!first || this.warmed.has(key)) return
    this.warmed.add(key)
    const lighting = { ...this.lighting(first), tilts: sets.has('height'), bends: Boolean(program.normals) }
    void warmUp(this, lighting, pictures, this.eyes.camera).then(() => this.redraw())
  }

  private readonly warmed = new Set<string>()
  private expected?: Pick<LoweredLook, 'pictures' | 'sets' | 'program'>
  give(shape: string, values: WholeValues): void {
    this.looks.now.give(shape, values)
  }
  /** The channels that the look sets. */
  get channels(): ReadonlySet<string> {
    return this.looks.now.channels
  }

  /**
   * Keeps a state of the look beside the one that is worked on; null forgets it.
   * @returns as `setLook`; values come by the function
   */
  keep(look: Look | null): ((shape: string, values: WholeValues) => void) | null {
    if (!look || !this.tables) {
      if (this.looks.kept) {
        this.looks.kept.dispose()
        this.looks.kept = undefined
        this.touch()
      }
      return null
    }
    if (!this.looks.kept) {
      this.looks.kept = new ShownLook(this.kernels, this.backend, 'kept', () => this.touch())
      this.looks.kept.setMesh(this.tables, false)
    }
    const { kept } = this.looks
    return kept.setLook(look) ? (shape, values) => kept.give(shape, values) : null
  }

  /** Where on the canvas, 0..1 from the left, the kept state ends. */
  setWipe(at: number): void {
    this.wipe = at
    this.relight()
  }

  setView(view: View, probed: ProbeLook = this.probed): void {
    this.view = view
    this.probed = probed
    this.relight()
  }

  // ---- Light ----

  /** Lights the stage by one of its rigs. */
  setRig(name: RigName): void {
    void this.lightBy('first', rigLight(this.renderer, name, this.sharpness))
  }
  /** Lights it by a picture of surroundings. */
  setPictureRig(picture: Surroundings): void {
    void this.lightBy('first', pictureLight(this.renderer, picture, this.sharpness))
  }

  /** The light that is on its way for each view; the one before stays until it is there. */
  private readonly lightsComing: { first?: Promise<Light>; second?: Promise<Light> } = {}
  private async lightBy(which: 'first' | 'second', coming: Light | Promise<Light>): Promise<void> {
    const awaited = Promise.resolve(coming)
    this.lightsComing[which] = awaited
    const light = await awaited
    if (this.lightsComing[which] === awaited && !this.gone) this.takeLight(which, light)
    else light.texture.dispose()
  }
  private takeLight(which: 'first' | 'second', light: Light | undefined): void {
    const before = this.rigs[which]
    this.lightsComing[which] = undefined
    if (before === light) return
    this.rigs[which] = light
    if (which === 'first') this.balls.scene.environment = light?.texture ?? null
    before?.texture.dispose()
    if (!before && this.expected) this.warm(this.expected)
    this.relight()
  }

  /** Turns the light about the vertical (degrees), and makes it brighter by a factor. */
  setLight(turn: number, brightness: number): void {
    this.turn = turn
    this.brightness = brightness
    this.balls.scene.environmentRotation.set(0, (turn * Math.PI) / 180, 0)
    this.balls.scene.environmentIntensity = brightness
    this.relight()
  }

  setSwitches(switches: Switches): void {
    this.switches = { ...switches }
    this.backend.setGround(switches.ground)
    this.relight()
  }

  set showsBalls(on: boolean) {
    this.balls.on = on
    this.redraw()
  }

  set showsEdges(on: boolean) {
    this.lines.showsEdges = on
    this.redraw()
  }

  setBackground(css: string): void {
    this.background.set(css).convertLinearToSRGB()
    this.clear.set(css)
    this.relight()
  }

  // ---- Views ----

  /** Looks with perspective, or straight along an axis without. */
  setEye(eye: Eye): void {
    this.eyes.setEye(eye)
  }

  /** A second view beside the first; null takes it away. `linked` has it follow the camera of the first. */
  setSecond(second: { eye: Eye; rig: RigName | null; linked: boolean } | null): void {
    this.linked = second?.linked ?? true
    if (!second) {
      for (const pane of this.panes.splice(1)) pane.dispose()
      this.takeLight('second', undefined)
      this.arrange()
      return
    }
    if (this.panes.length < 2) {
      const pane = new Pane(
        this.canvas,
        this,
        () => this.lighting(this.rigs.second ?? this.rigs.first),
        () => this.moved(1),
      )
      pane.eyes.whole = this.box
      pane.eyes.active = false
      this.panes.push(pane)
      this.arrange()
      pane.eyes.follow(this.eyes)
    }
    if (second.rig) void this.lightBy('second', rigLight(this.renderer, second.rig, this.sharpness))
    else this.takeLight('second', undefined)
    this.panes[1]!.eyes.setEye(second.eye)
    if (second.linked && second.eye === 'perspective') this.panes[1]!.eyes.follow(this.eyes)
    this.relight()
  }

  /** Whether the first sharp picture of a mesh is awaited, for which nobody has to hold still. */
  private fresh = false

  private moved(index: number): void {
    this.fresh = false
    const [first, second] = this.panes
    if (second && this.linked && !this.following) {
      this.following = true
      if (index === 0) second.eyes.follow(first.eyes)
      else first.eyes.follow(second.eyes)
      this.following = false
    }
    this.touch()
  }

  private following = false

  /** The view under the pointer is the one that it moves. */
  private readonly choosePane = (e: MouseEvent): void => {
    if (this.panes.length < 2) return
    const box = this.canvas.getBoundingClientRect()
    const right = (e.clientX - box.left) / box.width >= 0.5
    this.panes.forEach((pane, i) => {
      pane.eyes.active = this.mayTurn && (i === 1) === right
    })
  }

  private mayTurn = true
  /** Whether dragging turns the camera: off while a box is drawn. */
  set turning(on: boolean) {
    this.mayTurn = on
    this.eyes.active = on
  }

  /** Turns the mesh slowly, once in some 24 seconds, until told otherwise. */
  set spinning(on: boolean) {
    if (on === this.spins > 0) return
    cancelAnimationFrame(this.spins)
    this.spins = 0
    if (!on) return
    let last = performance.now()
    const step = (now: number): void => {
      this.orbit(((now - last) / 24_000) * 2 * Math.PI, 0)
      last = now
      this.spins = requestAnimationFrame(step)
    }
    this.spins = requestAnimationFrame(step)
  }

  /** Puts some parts, or the whole mesh, into view. */
  frame(parts?: Iterable<number>): void {
    const list = parts && this.tables ? [...parts].map(i => this.tables!.parts.parts[i]!) : []
    const box: Box | undefined = list.length
      ? {
          min: [0, 1, 2].map(k => Math.min(...list.map(p => p.min[k]!))) as Box['min'],
          max: [0, 1, 2].map(k => Math.max(...list.map(p => p.min[k]! + p.size[k]!))) as Box['max'],
        }
      : undefined
    for (const pane of this.panes) pane.eyes.frame(box)
  }

  resize(width: number, height: number, ratio: number): void {
    if (!width || !height) return
    this.bounds = { width, height, ratio }
    this.renderer.setPixelRatio(ratio)
    this.renderer.setSize(width, height, false)
    this.arrange()
  }

  /** Gives each view its part of the canvas. */
  private arrange(): void {
    const size = this.renderer.getDrawingBufferSize(new Vector2())
    if (!this.bounds.width) return
    const each = Math.floor(size.x / this.panes.length)
    this.panes.forEach((pane, i) => {
      pane.origin.set(i * each, 0)
      pane.resize(i === this.panes.length - 1 ? size.x - i * each : each, size.y)
    })
    this.touch()
  }

  orbit(turn: number, tilt: number, zoom = 1): void {
    this.eyes.orbit(turn, tilt, zoom)
  }
  project(point: readonly [number, number, number]): [number, number] | null {
    const at = this.eyes.project(point)
    return at && [at[0] / this.panes.length, at[1]]
  }

  /** A point moved across the canvas, by shares of it, as far from the camera as before. */
  pushed(point: readonly [number, number, number], dx: number, dy: number): [number, number, number] {
    return this.eyes.pushed(point, dx * this.panes.length, dy)
  }
  get reach(): number {
    return Math.hypot(...this.box.max.map((x, k) => x - this.box.min[k]!)) / 2
  }
  /** Width of the view in device pixels. */
  get width(): number {
    return this.panes[0].size.x
  }

  /** Sees the mesh from a place, in meters. */
  standAt(from: [number, number, number], to: [number, number, number]): void {
    const { perspective, controls } = this.eyes
    perspective.position.set(...from)
    controls.target.set(...to)
    controls.update()
  }

  /** From where the camera looks, and its vertical opening in degrees. */
  get eyePoint(): { from: [number, number, number]; to: [number, number, number]; angle: number } {
    const { perspective, controls } = this.eyes
    return { from: perspective.position.toArray(), to: controls.target.toArray(), angle: perspective.fov }
  }

  // ---- What lies where ----

  /**
   * The place of the surface at a point of the canvas, 0..1 from its upper left corner; while the UV layout is shown,
   * the place in it.
   */
  async at(
    x: number,
    y: number,
  ): Promise<{ triangle: number; u: number; v: number } | { u: number; v: number } | null> {
    if (this.eyes.flat) return this.eyes.place(x, y)
    if (!this.tables) return null
    const words = await seenIn(this.panes, this.backend, [x, y, x, y])
    const [word, u, v] = words
    if (!word || word === GROUND) return null
    const [fu, fv] = new Float32Array(Uint32Array.of(u!, v!).buffer)
    return { triangle: word - 1, u: fu!, v: fv! }
  }

  /** The visible parts inside a rectangle of the canvas, its corners 0..1 from the upper left. */
  async partsIn(x0: number, y0: number, x1: number, y1: number): Promise<number[]> {
    if (!this.tables) return []
    if (this.eyes.flat) return this.layout.partsIn(this.renderer, this.eyes.camera, x0, y0, x1, y1)
    const words = await seenIn(this.panes, this.backend, [x0, y0, x1, y1])
    const found = new Set<number>()
    for (let i = 0; i < words.length; i += SEEN_WORDS) {
      const word = words[i]!
      if (word && word !== GROUND) found.add(this.tables.parts.partOfTriangle[word - 1]!)
    }
    return [...found]
  }

  // ---- Work ----

  /** Something that is seen has changed. */
  touch(): void {
    this.changedAt = performance.now()
    // Said at once: the next picture may take a while.
    if (this.final) this.outdated?.()
    this.final = false
    if (this.looks.now.ready) stageIsWorking(true)
    if (this.panes.some(p => p.yields)) this.backend.cancel()
    if (this.layout.on) {
      stageIsWorking(false)
      return this.redraw()
    }
    this.again = true
    void this.run()
  }

  /** The light has changed, or what is shown of the channels. */
  private relight(): void {
    this.versions.light++
    this.touch()
  }

  /** Waits until the graphics card has done what it was given. */
  private async through(): Promise<void> {
    await finished(this.renderer)
    for (const pane of this.panes) pane.finished()
  }

  /** Waits until what was put onto the canvas last is there; not for long, for pages that are not seen draw nothing. */
  private async isDrawn(): Promise<void> {
    if (this.waiting) await Promise.race([this.onceDrawn, new Promise(resolve => setTimeout(resolve, DRAWN_WAITS))])
  }
  private onceDrawn: Promise<void> = Promise.resolve()

  /** Puts the picture onto the canvas once more. */
  private redraw(): void {
    if (this.waiting) return
    let isDrawn = (): void => {}
    this.onceDrawn = new Promise(resolve => {
      isDrawn = resolve
    })
    this.waiting = requestAnimationFrame(() => {
      this.waiting = 0
      // After the browser has put this frame together.
      setTimeout(isDrawn)
      if (this.gone) return
      const from = performance.now()
      this.draw()
      this.tell(performance.now() - from)
    })
  }

  /** For what is laid over the canvas. */
  invalidate(): void {
    this.redraw()
  }

  private async run(): Promise<void> {
    if (this.working) return
    this.working = true
    clearTimeout(this.timer)
    try {
      let more = true
      while (more && !this.gone && !this.layout.on && this.rigs.first) {
        this.again = false
        more = await this.turnOfAll()
        if (this.again) more = true
      }
    } finally {
      this.working = false
    }
  }

  /** One piece of work for each view. @returns whether there is more to do at once */
  private async turnOfAll(): Promise<boolean> {
    if (this.panes.every(p => p.sharp)) this.fresh = false
    const rests = this.fresh || performance.now() - this.changedAt >= REST
    const before = this.panes.map(p => p.count * 10 + p.step)
    const results = []
    const refines = this.backend.name === 'card' || !othersWork()
    for (const pane of this.panes) results.push(await pane.work(rests, refines))
    this.compiling = results.includes('compiling')
    const isAwaited = this.panes.some(p => p.step !== 1)
    if (isAwaited) stageIsWorking(true)
    const wasFinal = this.final
    this.final = results.every(r => r === 'final') && this.panes.every(p => p.step > 0)
    const worked = results.includes('more')
    // Whoever puts a picture of software onto the page waits for all that was asked for before it, the page with it.
    const takesLong = worked && this.backend.name === 'workers'
    if (takesLong) await this.through()
    if (worked || this.final !== wasFinal || this.panes.some((p, i) => p.count * 10 + p.step !== before[i])) {
      this.redraw()
      if (takesLong) await this.isDrawn()
    }
    if (worked) {
      await this.through()
    } else if (results.includes('later'))
      this.timer = setTimeout(() => void this.run(), Math.max(SETTLES, REST - (performance.now() - this.changedAt)))
    // Others have their turn once the picture is there, not as soon as it is asked for.
    if (!isAwaited && !this.again) stageIsWorking(false)
    return worked
  }

  private draw(): void {
    const { smooth, layout } = this
    const needsSmooth = layout.on || this.lines.on || this.balls.on
    const work = layout.on ? () => this.drawLayout() : () => this.drawPictures()
    if (smooth && needsSmooth) smooth.draw(this.eyes.camera, work)
    else work()
  }

  private drawLayout(): void {
    drawIntoAll(this.renderer)
    this.layout.draw(this.renderer, this.eyes.camera, this.clear)
  }

  private drawPictures(): void {
    const { renderer } = this
    const size = renderer.getSize(new Vector2())
    drawIntoAll(renderer)
    renderer.setClearColor(this.clear, 1)
    renderer.clear()
    const { ratio } = this.bounds
    for (const pane of this.panes) {
      const shown = pane.current
      if (!shown) continue
      const place = { x: pane.origin.x / ratio, y: 0, width: pane.size.x / ratio, height: size.y }
      drawInto(renderer, place)
      renderer.setScissor(place.x, place.y, place.width, place.height)
      renderer.setScissorTest(true)
      const outlines = this.selected && shown.slot !== 'mesh'
      this.present.draw(renderer, shown, pane.origin, outlines, this.lines.on)
      if (this.lines.on) this.lines.draw(renderer, pane.eyes.camera)
      renderer.setScissorTest(false)
    }
    drawIntoAll(renderer)
    this.balls.draw(renderer, this.eyes.perspective, size)
  }

  private tell(submitMs: number): void {
    const [pane] = this.panes
    this.drawn?.({
      step: pane.step,
      samples: pane.count,
      of: this.samples,
      final: this.final,
      compiling: this.compiling,
      ...pane.counted,
      submitMs,
    })
  }

  // ---- Pictures ----

  /** The look as the camera sees it now, whatever the stage shows, as a small PNG. */
  async picture(width: number, height: number): Promise<Blob | null> {
    if (!this.looks.now.ready || !this.rigs.first) return null
    // What is evaluated anyway needs no second time.
    for (let waited = 0; !this.mesh.on && !this.panes[0].sharp && waited < PICTURE_WAITS; waited += 100)
      await new Promise(resolve => setTimeout(resolve, 100))
    // Without the ground: a shadow on it would end where the stage does, inside of the picture.
    const target = await this.panes[0].still({ view: 'finished', ground: false }, 1)
    if (!target) return null
    const halves = await readHalves(this.renderer, target)
    target.dispose()
    const inside = { width, height, background: this.clear.getStyle() }
    const asked = { halves, width: target.width, height: target.height, inside }
    return aside(makePictureWorker, (api: Comlink.Remote<PictureApi>) =>
      api.png(Comlink.transfer(asked, [halves.buffer])),
    )
  }

  /** What a tile of a sheet depends on besides its look: mesh, camera, light, and what is shown of the channels. */
  get viewKey(): string {
    return `${this.surfaceKey} ${this.eyes.key} ${this.lightKey}`
  }

  /** Whether the stage shows what is wanted, and nothing has changed for a while. */
  private settled(waited: number): boolean {
    return waited > 0 && this.panes[0].sharp && performance.now() - this.changedAt > 2 * REST
  }

  /**
   * The look and a delivered GLB, drawn one after the other by the same camera and in the same light, or their base
   * color alone without any. What is not surface has the color of the stage in both; what is of the stage alone, or of
   * the file alone unless the look says it, is left out: shadows, contacts, occlusion.
   * @returns null where it is not wanted any more, or where the stage cannot draw
   */
  async proof(asked: ProofAsked): Promise<Proof | null> {
    const seen = (): string => `${this.viewKey} ${this.looks.now.version}`
    while (asked.isWanted() && this.rigs.first) {
      // What opens the comparison may change the size of the stage, and both are to be seen alike.
      for (let waited = 0; !this.settled(waited) && waited < PICTURE_WAITS; waited += SETTLES)
        await new Promise(resolve => setTimeout(resolve, SETTLES))
      const before = seen()
      const proof = await this.bothSeen(asked)
      // Who turned the stage meanwhile has two that are not seen alike.
      if (before === seen()) return proof
    }
    return null
  }

  private async bothSeen(asked: ProofAsked): Promise<Proof | null> {
    const { view, samples, isWanted } = asked
    const [pane] = this.panes
    const { first } = this.rigs
    if (!first) return null
    const lighting = { view, shadows: false, contact: false, ground: false, widens: false }
    // Where there are more samples than at rest, they are pixels of a larger picture, between which slopes are exact.
    const points = pane.size.x * pane.size.y
    const finer = (samples > SAMPLES && FINER.find(f => points * f ** 2 <= FINER_PIXELS)) || 1
    const count = samples / finer ** 2
    const target = await pane.still(lighting, count, finer, isWanted)
    if (!target) return null
    const { width, height } = target
    const stage = await readShares(this.renderer, target)
    target.dispose()
    const { environmentRotation, environmentIntensity } = this.balls.scene
    const occluded = this.looks.now.lowered?.program.closed !== undefined
    const proof = await proofOf(
      this.renderer,
      // The loader may keep what it is given.
      { ...asked, glb: asked.glb.slice(0), samples: count, occluded, widened: false },
      { width, height },
      this.eyes.perspective,
      { texture: first.texture, rotation: environmentRotation, intensity: environmentIntensity },
      this.clear,
    )
    this.redraw()
    if (!proof) return null
    return {
      width: width / finer,
      height: height / finer,
      stage: narrowed(stage, width, finer),
      delivered: narrowed(proof.delivered, width, finer),
      background: proof.background,
    }
  }

  dispose(): void {
    this.gone = true
    stageIsWorking(false)
    clearTimeout(this.timer)
    cancelAnimationFrame(this.waiting)
    cancelAnimationFrame(this.spins)
    this.canvas.removeEventListener('pointerdown', this.choosePane, { capture: true })
    this.canvas.removeEventListener('wheel', this.choosePane, { capture: true })
    for (const pane of this.panes) pane.dispose()
    this.backend.dispose()
    for (const one of [this.mesh, this.inspect, this.layout, this.lines, this.shadow, this.balls]) one.dispose()
    this.state?.dispose()
    for (const rig of Object.values(this.rigs)) rig?.texture.dispose()
    putBackEasel(this.easel)
  }
}
