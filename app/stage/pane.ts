import { Vector2, type WebGLRenderTarget } from 'three'
import { LAYERS, type ChannelPicture } from '#core/evaluate/visible'
import { CONTACT_REACH } from '#core/light/contact'
import type { LookSlot, Slot } from './slots'
import type { Outcome } from './backend'
import { Eyes, type Sight } from './eyes'
import { finished } from './evaluateOnCard'
import { isLit, keyFrom, pictureTarget, type Lighting, type Lit } from './lightPass'
import type { Shown } from './presentPass'
import type { Passes } from './standing'
import { WHOLE, type Region } from './region'
import { Sample } from './sample'

/** Pictures with shifted pixels that make the final one. */
export const SAMPLES = 16
/** What a picture may take while hands move, in milliseconds: of evaluation, and with light where both are software. */
const BUDGET = 40
const WITH_LIGHT = 75
/** How much longer the light of a picture with four times as many pixels takes, before it is known. */
const MORE_LIGHT = 2
const STEPS = [1, 2, 4, 8] as const
/** Before anything is known of how long a look takes. */
const FIRST_STEP = 4
/** Bytes on the graphics card that samples may keep, so that another light needs no evaluation. */
const KEPT_BYTES = 320 * 2 ** 20
/** How often a picture on request is tried, and how long it waits in between, in milliseconds. */
const STILL_TRIES = 200
const STILL_WAITS = 50
/**
 * Where the graphics card is made of software: pixels of the surface, in both directions, for each that is lit while
 * the light is being changed; fewer are lit where that took longer than so many milliseconds, more again where it did
 * not take half of it.
 */
const STRIDES = [2, 3, 4] as const
const LIGHT_BUDGET = 60
/** And in how many bands a picture is lit, so that something newer need not wait for all of it. */
const BANDS = 4

/**
 * What a piece of work came to: there is more to do at once, when the hands rest, when shaders are ready, or nothing.
 */
export type Work = 'more' | 'later' | 'compiling' | 'final'

/** Everything that decides what is seen. */
interface State {
  /** The looks that are seen, or the mesh itself. */
  slots: readonly Slot[]
  surface: string
  looks: string
  light: string
}

const seesTheSame = (a: State, b: State): boolean => a.surface === b.surface && a.looks === b.looks

/** One view of the mesh on the stage, brought from a coarse picture to the final one. */
export class Pane {
  readonly eyes: Eyes
  /** Its place on the canvas, in device pixels from the lower left corner. */
  readonly origin = new Vector2()
  private readonly samples = new Map<string, Sample>()
  private readonly surfaces = new Map<Sample, string>()
  /** The surfaces for which samples know how near things are to one another. */
  private readonly contacts = new Map<Sample, string>()
  private readonly pictures = new Map<number, WebGLRenderTarget>()
  private width = 0
  private height = 0
  private shown?: State &
    Shown & {
      count: number
      /** Pixels for each that is lit, where the light was being changed. */
      rough?: number
    }
  /** Points that can be evaluated in a millisecond, of a look or of the mesh, and that a whole picture has; of late. */
  private readonly rates: { mesh?: number; look?: number } = {}
  private points = 0
  /** Which of the strides is taken next while the light is being changed. */
  private stride = 0
  private lightFrom?: number
  /** How long pictures of some step take to be lit, of late; and the one that is being lit. */
  private readonly lit = new Map<number, number>()
  private litFrom?: { at: number; step: number }
  /** Points evaluated for the picture that is shown, and points seen in it. */
  readonly counted = { evaluated: 0, visible: 0, ever: 0 }
  /** Whether what is under way may be given up for something newer. */
  yields = false

  /** @param lighting what decides how this view is lit */
  constructor(
    canvas: HTMLElement,
    private readonly passes: Passes,
    private readonly lighting: () => Lighting,
    moved: () => void,
  ) {
    this.eyes = new Eyes(canvas, moved)
  }

  /** Whether a sharp picture of what is wanted is shown. */
  get sharp(): boolean {
    const { shown, wanted } = this
    return shown?.sample.step === 1 && seesTheSame(shown, wanted)
  }

  get size(): Vector2 {
    return new Vector2(this.width, this.height)
  }
  get step(): number {
    const { shown } = this
    return shown?.rough ?? shown?.sample.step ?? 0
  }
  get count(): number {
    return this.shown?.count ?? 0
  }
  get current(): Shown | undefined {
    return this.shown
  }

  resize(width: number, height: number): void {
    if (width === this.width && height === this.height) return
    this.width = width
    this.height = height
    this.eyes.resize(width, height)
    this.clear()
  }

  /** Forgets all pictures. */
  clear(): void {
    for (const sample of this.samples.values()) this.release(sample)
    for (const picture of this.pictures.values()) picture.dispose()
    this.dropSheet()
    this.samples.clear()
    this.surfaces.clear()
    this.pictures.clear()
    this.shown = undefined
  }

  private release(sample: Sample): void {
    this.passes.backend.drop(sample)
    this.surfaces.delete(sample)
    this.contacts.delete(sample)
    sample.dispose()
  }

  private get wanted(): State {
    return this.wantedOf(this.slots)
  }
  private wantedOf(slots: readonly Slot[]): State {
    const { passes } = this
    return {
      slots,
      surface: `${passes.surfaceKey} ${this.eyes.key} ${this.layersOf(slots)}`,
      looks: slots.map(slot => `${slot} ${this.versionOf(slot)}`).join(),
      light: slots[0] === 'mesh' ? `${passes.lightKey} ${passes.mesh.colored}` : passes.lightKey,
    }
  }
  private versionOf(slot: Slot): number {
    return slot === 'mesh' ? this.passes.mesh.version : this.passes.looks[slot]!.version
  }
  /** What is painted of a look or of the mesh; undefined as long as nothing can be. */
  private picturesOf(slot: Slot): readonly ChannelPicture[] | undefined {
    return slot === 'mesh' ? this.passes.mesh.pictures : this.passes.looks[slot]?.lowered?.pictures
  }

  /** Whether something else is wanted by now. */
  private hasMovedOn(before: State): boolean {
    const now = this.wanted
    return !seesTheSame(now, before) || now.light !== before.light
  }

  /** What is seen: looks, or the mesh itself. */
  private get slots(): readonly Slot[] {
    return this.passes.mesh.on ? ['mesh'] : this.lookSlots
  }
  private get lookSlots(): LookSlot[] {
    const { looks } = this.passes
    return looks.kept?.ready && looks.now.ready ? ['kept', 'now'] : ['now']
  }
  private get layers(): number {
    return this.layersOf(this.slots)
  }

  private layersOf(slots: readonly Slot[]): number {
    const { looks } = this.passes
    const peeled = slots.some(slot => {
      if (slot === 'mesh') return false
      return (looks[slot]?.lowered ?? looks[slot]?.coming)?.sets.has('opacity')
    })
    return peeled ? LAYERS : 1
  }

  /** Finds what the first picture of a mesh will need of it, while the values of its look are still being gathered. */
  foresee(): void {
    const { passes, inSoftware } = this
    if (!this.width || !inSoftware) return
    this.see(this.sample(this.stepFor(), 0), this.wanted.surface)
    const { shadows, key, turn } = this.lighting()
    if (shadows) void passes.shadow.draw(keyFrom(key, turn), passes.box, passes.surfaceKey, true)
  }

  /**
   * Does the next piece of work.
   * @param rests whether the hands have rested for a while
   * @param refines whether nobody else is to work first, once the picture is sharp
   */
  async work(rests: boolean, refines: boolean): Promise<Work> {
    const { passes, shown, wanted } = this
    if (!this.width || !wanted.slots.every(slot => this.picturesOf(slot))) return 'final'
    if (!shown || !seesTheSame(shown, wanted)) return this.begin(wanted, this.isFilled(wanted) ? 1 : this.stepFor())
    const lightTakesLong = this.inSoftware && shown.slot !== 'mesh'
    if (shown.light !== wanted.light) return this.relight(wanted, shown, lightTakesLong && shown.sample.step === 1)
    if (shown.rough) return rests ? this.relight(wanted, shown, false) : 'later'
    if (shown.sample.step > 1) return rests ? this.begin(wanted, 1, shown.sample) : 'later'
    if (shown.count >= passes.samples) return 'final'
    return rests && refines ? this.add(wanted, shown) : 'later'
  }

  /** Whether all that is wanted was found out already at every pixel. */
  private isFilled({ slots, surface }: State): boolean {
    const sample = this.samples.get('1/0')
    if (!sample || this.surfaces.get(sample) !== surface || !this.passes.backend.holds(sample)) return false
    return slots.every(slot => sample.channels[slot]?.version === this.versionOf(slot))
  }

  private get inSoftware(): boolean {
    return this.passes.backend.name === 'workers'
  }

  /** Lights what is shown anew. @param rough whether some of its pixels will do for now */
  private async relight(wanted: State, shown: NonNullable<Pane['shown']>, rough: boolean): Promise<Work> {
    const stride = rough ? STRIDES[this.stride]! : undefined
    const picture = this.picture(stride ?? shown.sample.step)
    if (rough) this.lightFrom = performance.now()
    await this.light(wanted, shown.sample, picture, 1, rough)
    Object.assign(shown, { light: wanted.light, picture, count: 1, rough: stride })
    return 'more'
  }

  /** The graphics card is through with what it was given. */
  finished(): void {
    if (this.litFrom) {
      const { at, step } = this.litFrom
      const took = performance.now() - at
      this.lit.set(step, ((this.lit.get(step) ?? took) + took) / 2)
      this.litFrom = undefined
    }
    if (this.lightFrom === undefined) return
    const ms = performance.now() - this.lightFrom
    this.lightFrom = undefined
    if (ms > LIGHT_BUDGET) this.stride = Math.min(this.stride + 1, STRIDES.length - 1)
    else if (ms < LIGHT_BUDGET / 2) this.stride = Math.max(this.stride - 1, 0)
  }

  /** Makes a picture of what is wanted now. */
  private async begin(wanted: State, step: number, coarse?: Sample): Promise<Work> {
    const sample = this.sample(step, 0)
    this.yields = coarse !== undefined
    const before = coarse && this.shown?.looks === wanted.looks ? this.counted.evaluated : 0
    const outcome = await this.fill(sample, wanted, coarse)
    this.yields = false
    if (outcome === 'compiling') return 'compiling'
    if (outcome === 'stale') return 'more'
    const picture = this.picture(step)
    if (this.inSoftware && wanted.slots[0] !== 'mesh') this.litFrom = { at: performance.now(), step }
    await this.light(wanted, sample, picture, 1, step > 1)
    this.shown = { ...wanted, sample, slot: wanted.slots.at(-1)!, picture, count: 1 }
    Object.assign(this.counted, { evaluated: before + outcome.evaluated, visible: outcome.visible })
    return 'more'
  }

  /** Adds a picture with shifted pixels to the one that is shown. */
  private async add(wanted: State, shown: NonNullable<Pane['shown']>): Promise<Work> {
    const sample = this.sample(1, shown.count)
    this.yields = true
    const outcome = await this.fill(sample, wanted)
    this.yields = false
    if (outcome === 'stale' || outcome === 'compiling') return 'more'
    if (this.hasMovedOn(wanted)) return 'more'
    if (!(await this.light(wanted, sample, shown.picture, 1 / (shown.count + 1)))) {
      // Some of it counts once more than the rest.
      shown.light = ''
      return 'more'
    }
    shown.count++
    if (this.keptBytes > KEPT_BYTES) this.forget(sample)
    return 'more'
  }

  private get keptBytes(): number {
    return [...this.samples.values()].reduce((n, s) => n + s.bytes, 0)
  }

  /** Sees that a sample holds the surface, and the channels of each look there. */
  private async fill(sample: Sample, { slots, surface }: State, coarse?: Sample): Promise<Outcome> {
    const { passes } = this
    this.see(sample, surface, this.eyes.camera, this.layersOf(slots))
    const total = { evaluated: 0, visible: Math.round(this.points / sample.step ** 2), ms: 0 }
    for (const slot of slots) {
      const version = this.versionOf(slot)
      if (sample.channels[slot]?.version === version) continue
      const channels = sample.roomFor(passes.renderer, slot, this.picturesOf(slot)!, passes.backend.wholeFloats)
      const outcome = await passes.backend.evaluate(slot, sample, coarse)
      if (outcome === 'stale' || outcome === 'compiling') return outcome
      channels.version = version
      total.evaluated += outcome.evaluated
      total.visible = outcome.visible
      total.ms += outcome.ms
    }
    const what = slots[0] === 'mesh' ? 'mesh' : 'look'
    if (total.ms > 0) this.measured(sample, what, total)
    this.counted.ever += total.evaluated
    return total
  }

  /** A look in a sample, with what the light has to know of the mesh. */
  private toLight(sample: Sample, slot: LookSlot): Lit {
    const { shadow, typical, box } = this.passes
    return { sample, slot, shadow, typical, box }
  }

  /** Finds how near things are to one another in a sample, where that is shown and not known yet. */
  private darken(sample: Sample, surface: string, lighting: Lighting): void {
    if (!lighting.contact || !isLit(lighting) || this.contacts.get(sample) === surface) return
    const { contact, renderer, full, reach } = this.passes
    this.contacts.set(sample, surface)
    contact.draw(renderer, full, sample, reach * CONTACT_REACH)
  }

  /** Draws the surface into a sample, unless it is there. */
  private see(sample: Sample, surface: string, camera = this.eyes.camera, layers = this.layers): void {
    const { passes } = this
    if (this.surfaces.get(sample) === surface && passes.backend.holds(sample)) return
    passes.backend.drop(sample)
    this.surfaces.set(sample, surface)
    for (const channels of Object.values(sample.channels)) channels.version = -1
    sample.place(camera)
    passes.backend.see(sample, layers)
    this.contacts.delete(sample)
  }

  private measured(
    sample: Sample,
    what: 'mesh' | 'look',
    { evaluated, visible, ms }: { evaluated: number; visible: number; ms: number },
  ): void {
    const rate = Math.max(1, evaluated) / ms
    this.rates[what] = ((this.rates[what] ?? rate) + rate) / 2
    this.points = visible * sample.step ** 2
  }

  /** The finest picture that is done in time. */
  private stepFor(): number {
    const { points } = this
    const { on } = this.passes.mesh
    const rate = this.rates[on ? 'mesh' : 'look']
    if (rate === undefined) return FIRST_STEP
    const isInTime = (step: number): boolean => {
      const ms = points / step ** 2 / rate
      return ms <= BUDGET && ms + (on ? 0 : this.lightMs(step)) <= WITH_LIGHT
    }
    return STEPS.find(isInTime) ?? STEPS.at(-1)!
  }

  /** How long the light of a picture probably takes; 0 where nothing is known of it. */
  private lightMs(step: number): number {
    const known = this.lit.get(step)
    if (known !== undefined || step >= STEPS.at(-1)!) return known ?? 0
    return MORE_LIGHT * this.lightMs(step * 2)
  }

  private sample(step: number, number: number): Sample {
    const key = `${step}/${number}`
    const old = this.samples.get(key)
    if (old) return old
    const made = new Sample(`${this.passes.nextKey()} ${key}`, step, number, { width: this.width, height: this.height })
    this.samples.set(key, made)
    return made
  }

  private picture(step: number): WebGLRenderTarget {
    const old = this.pictures.get(step)
    if (old) return old
    const made = pictureTarget(Math.ceil(this.width / step), Math.ceil(this.height / step))
    this.pictures.set(step, made)
    return made
  }

  /**
   * Lights a sample, into a picture.
   * @param weight how much it counts beside what the picture holds; what is laid over a picture may be given up
   * @param quick whether a shadow map with fewer pixels will do
   * @returns whether all of it was lit
   */
  private async light(
    { slots, surface }: State,
    sample: Sample,
    picture: WebGLRenderTarget,
    weight: number,
    quick = false,
  ): Promise<boolean> {
    const { passes } = this
    const { shadow, renderer } = passes
    const lighting = this.lighting()
    if (slots[0] === 'mesh') {
      passes.inspect.draw(renderer, sample, lighting.background, picture, weight)
      return true
    }
    if (lighting.shadows) await shadow.draw(keyFrom(lighting.key, lighting.turn), passes.box, passes.surfaceKey, quick)
    if (sample.step === 1) this.darken(sample, surface, lighting)
    const both = slots.length > 1 && sample.channels.kept
    const draw = (slot: LookSlot, region?: Region): void =>
      passes.light.draw(renderer, this.toLight(sample, slot), lighting, picture, weight, region)
    if (both) {
      draw('kept', { ...WHOLE, right: passes.wipe })
      draw('now', { ...WHOLE, left: passes.wipe })
      return true
    }
    if (!this.inSoftware || weight === 1) {
      draw('now')
      return true
    }
    const before = this.wanted
    for (let band = 0; band < BANDS; band++) {
      draw('now', { ...WHOLE, bottom: band / BANDS, top: (band + 1) / BANDS })
      await finished(renderer)
      if (this.hasMovedOn(before)) return false
    }
    return true
  }

  /**
   * A picture of the look as it is now.
   * @param change of how it is lit
   * @param count pictures with shifted pixels that make it
   * @param finer how many pixels it has along each side of one of the stage's: the slope of the height is that from one
   * pixel to the next, so that it is found more exactly
   * @param isWanted whether it is still wanted
   */
  async still(
    change: Partial<Lighting>,
    count: number,
    finer = 1,
    isWanted = (): boolean => true,
  ): Promise<WebGLRenderTarget | null> {
    const { passes } = this
    const { shadow } = passes
    const size = { width: this.width * finer, height: this.height * finer }
    const target = pictureTarget(size.width, size.height)
    const lighting = { ...this.lighting(), ...change }
    if (lighting.shadows) await shadow.draw(keyFrom(lighting.key, lighting.turn), passes.box, passes.surfaceKey)
    for (let number = 0; number < count; number++) {
      const own = finer > 1
      const sample = own ? new Sample(`${passes.nextKey()} still`, 1, number, size) : this.sample(1, number)
      const isFilled = isWanted() && (await this.filled(sample))
      if (isFilled) {
        this.darken(sample, this.wanted.surface, lighting)
        passes.light.draw(passes.renderer, this.toLight(sample, 'now'), lighting, target, 1 / (number + 1))
      }
      if (own) this.release(sample)
      else if (this.keptBytes > KEPT_BYTES && sample !== this.shown?.sample) this.forget(sample)
      if (isFilled) continue
      target.dispose()
      return null
    }
    return target
  }

  /** Has a sample hold the channels of what is wanted now. @returns whether that came to be */
  private async filled(sample: Sample): Promise<boolean> {
    for (let tries = 0; tries < STILL_TRIES; tries++) {
      const outcome = await this.fill(sample, this.wantedOf(this.lookSlots))
      if (outcome !== 'stale' && outcome !== 'compiling') return true
      await new Promise(resolve => setTimeout(resolve, STILL_WAITS))
    }
    return false
  }

  /**
   * The look of the slot for sheets, lit as the stage is, in a picture of its own with fewer pixels. It stays until the
   * next one.
   * @param step pixels of the stage for each of it
   * @param count pictures with shifted pixels that make it
   * @param wanted whether it is still wanted
   * @param change of how it is lit
   * @param sight another place than the stage's to see it from
   */
  async tile(
    step: number,
    count: number,
    wanted: () => boolean,
    change: Partial<Lighting>,
    sight: Sight = {},
  ): Promise<WebGLRenderTarget | null> {
    const { passes } = this
    const { shadow, renderer } = passes
    if (!this.width) return null
    const lighting = { ...this.lighting(), ...change }
    for (let number = 0; number < count; number++) {
      const sample = await this.sheetFilled(step, number, wanted, sight)
      if (!sample) return null
      this.darken(sample, this.surfaceOf(sight), lighting)
      if (lighting.shadows) await shadow.draw(keyFrom(lighting.key, lighting.turn), passes.box, passes.surfaceKey)
      const lit = this.toLight(sample, 'sheet')
      passes.light.draw(renderer, lit, lighting, this.sheet!.target, 1 / (number + 1))
    }
    return this.sheet!.target
  }

  /** What is seen in the tiles of a sheet. */
  private surfaceOf({ turn = 0, away = 1 }: Sight): string {
    return `${this.wanted.surface} ${turn} ${away} ${this.layersOf(['sheet'])}`
  }

  /** A sample of a sheet that holds the channels of its look; null where that is not wanted any more. */
  private async sheetFilled(step: number, number: number, wanted: () => boolean, sight: Sight): Promise<Sample | null> {
    const { passes } = this
    const { lowered, version } = passes.looks.sheet ?? {}
    if (!lowered || version === undefined) return null
    const layers = this.layersOf(['sheet'])
    for (let tries = 0; tries < STILL_TRIES && wanted(); tries++) {
      const sample = this.sheetSample(step, number)
      this.see(sample, this.surfaceOf(sight), this.eyes.cameraFrom(sight), layers)
      const channels = sample.roomFor(passes.renderer, 'sheet', lowered.pictures, passes.backend.wholeFloats)
      if (channels.version === version) return sample
      const outcome = await passes.backend.evaluate('sheet', sample)
      if (outcome === 'stale' || outcome === 'compiling') {
        await new Promise(resolve => setTimeout(resolve, STILL_WAITS))
        continue
      }
      if (!wanted()) return null
      channels.version = version
      return sample
    }
    return null
  }

  private sheet?: { step: number; samples: Sample[]; target: WebGLRenderTarget }
  private sheetSample(step: number, number: number): Sample {
    if (this.sheet?.step !== step) this.dropSheet()
    const full = { width: this.width, height: this.height }
    const old = this.sheet?.samples[number]
    if (old) return old
    const made = new Sample(`${this.passes.nextKey()} sheet`, step, number, full, true)
    this.sheet ??= { step, samples: [], target: pictureTarget(made.width, made.height) }
    this.sheet.samples[number] = made
    return made
  }
  /** Forgets what tiles of sheets were made of. */
  dropSheet(): void {
    for (const sample of this.sheet?.samples ?? []) this.release(sample)
    this.sheet?.target.dispose()
    this.sheet = undefined
  }

  private forget(sample: Sample): void {
    this.samples.delete(`1/${sample.number}`)
    this.release(sample)
  }

  /** The front layer as it is seen now, drawn where it is not there yet. */
  seenNow(): Sample {
    const sample = this.sample(1, 0)
    this.see(sample, this.wanted.surface)
    return sample
  }

  dispose(): void {
    this.clear()
    this.eyes.dispose()
  }
}
