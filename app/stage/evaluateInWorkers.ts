import * as Comlink from 'comlink'
import type { WebGLRenderer, WebGLRenderTarget } from 'three'
import type { WholeValues } from '#core/evaluate/gather'
import type { OfMesh } from '#core/evaluate/ofMesh'
import { groundUnder, type Sightline } from '#core/evaluate/rasterize'
import type { MeshTables } from '#core/evaluate/tables'
import type { Look } from '#core/graph/look'
import { SEEN_WORDS } from '#core/evaluate/visible'
import type { Box } from '#core/mesh/mesh'
import type { Crew } from '../shared/crew'
import { evaluator } from '../shared/evaluation'
import type { LookSlot, Slot } from './slots'
import { putBack, takeCrew } from './stageCrew'
import type { StageApi, Strip } from './stage.worker'
import type { Backend, LoweredLook, Outcome, Rectangle } from './backend'
import type { Camera, Sample } from './sample'
import { lineOf, sightOf } from './sightline'
import { Tiles } from './tiles'

/** Stretches of the picture's height for which is known how much is seen there: workers share the rows by it. */
const STRETCHES = 64

interface Rows {
  first: number
  rows: number
}

/**
 * Finds what is seen and evaluates looks there by the kernels, in workers that share the rows of a picture among them.
 */
export class EvaluateInWorkers implements Backend {
  readonly name = 'workers'
  readonly wholeFloats = true
  readonly compiled = 0
  /** None once this is disposed of: the workers are others' then. */
  private crew: Crew<StageApi> | undefined
  private readonly sent = new Map<Sample, Rows[]>()
  private readonly weights = new Float64Array(STRETCHES).fill(1)
  private ready: Promise<unknown> = Promise.resolve()
  private meshes = 0
  private ticket = 0
  private parts = 0
  private ground: Sightline['ground']
  private box: Box = { min: [0, 0, 0], max: [0, 0, 0] }
  private groundOn = true
  /** Steps of a pixel in which the graphics card of this machine puts corners: both backends see the same. */
  private readonly snap: number

  constructor(
    private readonly renderer: WebGLRenderer,
    count: number,
  ) {
    const gl = renderer.getContext()
    this.snap = 2 ** gl.getParameter(gl.SUBPIXEL_BITS)
    this.crew = takeCrew(count)
  }

  private get threads(): readonly Comlink.Remote<StageApi>[] {
    return this.crew?.all ?? []
  }

  /** What the workers answer; nothing ever comes after this is disposed of, for who waits is gone as well. */
  private async answers<T>(ask: (api: Comlink.Remote<StageApi>, i: number) => Promise<T>): Promise<T[]> {
    const all = await Promise.all(this.threads.map(ask))
    return this.crew ? all : new Promise(() => {})
  }

  setMesh(tables: MeshTables, box: Box, same: boolean): void {
    this.meshes++
    this.parts = tables.parts.parts.length
    this.box = box
    this.ground = groundUnder(box)
    if (!same) this.sent.clear()
    this.ready = evaluator.share().then(number => Promise.all(this.threads.map(api => api.ready(number))))
  }

  setHidden(hidden: ReadonlySet<number>): void {
    const marks = hidden.size ? Uint8Array.from({ length: this.parts }, (_, i) => Number(hidden.has(i))) : null
    for (const api of this.threads) void api.setHidden(marks)
  }

  setGround(on: boolean): void {
    this.groundOn = on
  }

  expect(look: Look): void {
    // One that cannot be read is told of when it is to be shown.
    for (const api of this.threads) void api.expect(look).catch(() => {})
  }

  prepare(slot: LookSlot, { look, port, shape }: LoweredLook): void {
    this.tellAll(api => void api.prepare(slot, { look, shape, ...(port && { port }) }))
  }

  setLook(slot: LookSlot, { look, port, shape }: LoweredLook, values: WholeValues): void {
    this.tellAll(api => void api.setLook(slot, { look, shape, values, ...(port && { port }) }))
  }

  setOfMesh(what: OfMesh): void {
    this.tellAll(api => void api.setOfMesh(what))
  }

  /** Tells every worker, once they have the mesh, unless there is another by then. */
  private tellAll(tell: (api: Comlink.Remote<StageApi>) => void): void {
    const { meshes } = this
    void this.ready.then(() => {
      if (meshes !== this.meshes) return
      for (const api of this.threads) tell(api)
    })
  }

  forget(slot: LookSlot): void {
    for (const api of this.threads) void api.forget(slot)
  }

  cancel(): void {
    this.ticket++
    for (const api of this.threads) void api.begin(this.ticket)
  }

  drop(sample: Sample): void {
    if (!this.sent.delete(sample)) return
    for (const api of this.threads) void api.drop(sample.key)
  }

  holds(sample: Sample): boolean {
    return this.sent.has(sample)
  }

  see(sample: Sample, layers: number): void {
    const { key, number, step, height } = sample
    const { meshes } = this
    const rows = this.share(height)
    this.sent.set(sample, rows)
    const line = {
      ...sightOf(sample, this.snap),
      ...(this.groundOn && this.ground && { ground: this.ground }),
    }
    void this.ready.then(() => {
      if (meshes !== this.meshes) {
        // Another mesh came before the workers were told: they do not hold this.
        if (this.sent.get(sample) === rows) this.sent.delete(sample)
        return
      }
      this.threads.forEach((api, i) => void api.see({ key, line, ...rows[i]!, layers, sample: number, step }))
    })
  }

  async evaluate(slot: Slot, sample: Sample, coarse?: Sample): Promise<Outcome> {
    const { ticket, meshes } = this
    await this.ready
    const rows = this.sent.get(sample)
    if (!rows || ticket !== this.ticket || meshes !== this.meshes) return 'stale'
    const from = performance.now()
    const ask = {
      slot,
      key: sample.key,
      ticket,
      coarse: coarse ? { key: coarse.key, step: coarse.step / sample.step } : null,
    }
    const strips = await this.answers(api => api.paint(ask))
    const whole = strips.filter(s => s !== null)
    // Of another size, or gone: there is no room any more for what was painted.
    const isHeld = this.sent.get(sample) === rows
    if (whole.length < strips.length || meshes !== this.meshes || !isHeld) return 'stale'
    this.take(slot, sample, rows, whole)
    const sum = (of: (strip: Strip) => number) => whole.reduce((n, s) => n + of(s), 0)
    return { evaluated: sum(s => s.evaluated), visible: sum(s => s.visible), ms: performance.now() - from }
  }

  async seenIn(sample: Sample, { left, right, bottom, top }: Rectangle): Promise<Uint32Array> {
    await this.ready
    const found = new Uint32Array((right - left) * (top - bottom) * SEEN_WORDS)
    const all = await this.answers(api => api.seenIn({ key: sample.key, left, right, bottom, top }))
    for (const words of all)
      words?.forEach((w, i) => {
        found[i]! |= w
      })
    return found
  }

  async depths(camera: Camera, target: WebGLRenderTarget): Promise<boolean> {
    await this.ready
    const { width, height } = target
    const each = Math.ceil(height / this.threads.length)
    const line = lineOf(camera, width, height, this.snap)
    const strips = await this.answers((api, i) =>
      api.depths(line, { first: i * each, rows: Math.max(0, Math.min(each, height - i * each)) }),
    )
    if (strips.some(s => s === null)) return false
    strips.forEach((strip, i) => upload(this.renderer, target, 0, i * each, width, strip!.length / width, strip!, 1))
    return true
  }

  /**
   * Divides the rows of a picture so that each worker gets as much of the surface as the others, by what was seen last.
   */
  private share(height: number): Rows[] {
    const total = this.weights.reduce((a, b) => a + b, 0)
    const ends = this.threads.map((_, i) => {
      let sum = 0
      const goal = (total * (i + 1)) / this.threads.length
      const stretch = this.weights.findIndex(w => (sum += w) >= goal - 1e-9)
      return Math.round((height * (stretch + 1)) / STRETCHES)
    })
    ends[ends.length - 1] = height
    return ends.map((end, i) => ({ first: ends[i - 1] ?? 0, rows: Math.max(0, end - (ends[i - 1] ?? 0)) }))
  }

  private take(slot: Slot, sample: Sample, rows: readonly Rows[], strips: readonly Strip[]): void {
    const { target, pictures } = sample.channels[slot]!
    this.weights.fill(0.01)
    const tiles = sample.tiles ? undefined : new Tiles(sample.width, sample.height)
    strips.forEach(({ painted, visibleIn, tiles: marks }, i) => {
      const { first, rows: count } = rows[i]!
      if (!count) return
      pictures.forEach((name, k) => {
        const data = painted[name]
        if (data) upload(this.renderer, target, k, first, sample.width, count, data, 4)
      })
      tiles?.add(marks)
      visibleIn.forEach((n, row) => {
        this.weights[Math.floor(((first + row) / sample.height) * STRETCHES)]! += n
      })
    })
    if (tiles) sample.setTiles(tiles, this.box)
  }

  dispose(): void {
    if (this.crew) putBack(this.crew)
    this.crew = undefined
  }
}

/** Puts rows of numbers into one of a target's pictures. */
function upload(
  renderer: WebGLRenderer,
  target: WebGLRenderTarget,
  picture: number,
  first: number,
  width: number,
  rows: number,
  data: Float32Array,
  lanes: 1 | 4,
): void {
  const gl = renderer.getContext() as WebGL2RenderingContext
  const { __webglTexture } = renderer.properties.get(target.textures[picture]!) as { __webglTexture: WebGLTexture }
  renderer.state.activeTexture(gl.TEXTURE0)
  renderer.state.bindTexture(gl.TEXTURE_2D, __webglTexture)
  gl.pixelStorei(gl.UNPACK_FLIP_Y_WEBGL, false)
  gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, false)
  gl.pixelStorei(gl.UNPACK_ALIGNMENT, 4)
  gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, first, width, rows, lanes === 1 ? gl.RED : gl.RGBA, gl.FLOAT, data)
  renderer.state.unbindTexture()
}
