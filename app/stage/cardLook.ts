import type { IUniform, WebGLRenderer, WebGLRenderTarget } from 'three'
import { Gatherer, type WholeValues } from '#core/evaluate/gather'
import type { MeshTables } from '#core/evaluate/tables'
import { laneOf, lanesIn, LANES } from '#core/evaluate/visible'
import type { Kernels } from '#core/kernels/kernels'
import { cutInTwo, Repetition } from '#core/program/cut'
import { reader } from '#core/program/lower'
import type { Ref } from '#core/program/ops'
import { plan } from '#core/program/plan'
import type { LoweredLook } from './backend'
import { CardPictures, CardProgram, type CardMaterial, type Lane, type Written } from './cardProgram'
import { numbersTarget, type FullPass } from './passes'
import type { Camera, Sample } from './sample'
import type { Slot } from './slots'

/** Pictures of kept values, four values to each: every card can write as many at once. */
const KEPT_PICTURES = 4
/** Bytes on the card that kept values of a sample may take. */
const KEPT_BYTES = 2 ** 28

/** A program in two: what stays while some instructions change, and the rest, which reads pictures of it. */
interface Cutting {
  sources: ReadonlySet<Ref>
  refs: readonly Ref[]
  /** Undefined where nothing is worth being kept. */
  halves?: { head: CardProgram; tail: CardProgram }
  /** Pictures of the kept values, one target for each layer of a sample. */
  kept: Map<Sample, { version: number; layers: WebGLRenderTarget[] }>
}

/** What a look writes into the pictures of its channels. */
function writtenBy({ program, normal, pictures, sets }: LoweredLook): Written {
  const values = lanesIn(pictures, program, normal)
  const lanes = values.map((ref, i): Lane => {
    const { [i % 4]: what } = LANES[pictures[i >> 2]!]
    return what === 'depth' || what === 'part' ? what : ref
  })
  const ground = pictures.map(name =>
    name === 'relief' ? 'vec4(0.0, uintBitsToFloat(seen.w), 0.0, -1.0)' : 'vec4(0.0)',
  )
  const opacity = sets.has('opacity') ? laneOf(pictures, 'opacity') : undefined
  return { lanes, ground, opacity, facing: pictures.indexOf('facing') }
}

/**
 * A look on the card. From the second change of the same parameters on its program is cut where the dear values end
 * that the changes leave alone. Both halves are compiled in the background, and the whole program runs until they are
 * there.
 */
export class CardLook {
  readonly whole: CardProgram
  private readonly material: CardMaterial
  private readonly written: Written
  private readonly roots: readonly Ref[]
  private readonly repetition: Repetition
  private cutting?: Cutting

  /** @param compile makes a program ready to be drawn; without it, the program is never cut */
  constructor(
    kernels: Kernels,
    readonly lowered: LoweredLook,
    tables: MeshTables,
    mesh: Record<string, IUniform>,
    private readonly compile?: (program: CardProgram) => Promise<void>,
  ) {
    const { program } = lowered
    const gatherer = new Gatherer(kernels, program, tables, 'given')
    this.material = { kernels, tables, gatherer, pictures: new CardPictures(tables), mesh }
    this.written = writtenBy(lowered)
    this.roots = this.written.lanes.filter(lane => typeof lane === 'number')
    this.whole = new CardProgram(this.material, plan(program, this.roots), this.written)
    this.repetition = new Repetition(program)
  }

  get ready(): boolean {
    return this.whole.ready
  }

  /** How many values are kept at every point while the same parameters change. */
  get kept(): number {
    return this.halves ? this.cutting!.refs.length : 0
  }
  /** Both halves of the program, once they are compiled. */
  private get halves(): Cutting['halves'] {
    const halves = this.cutting?.halves
    return halves?.head.ready && halves.tail.ready ? halves : undefined
  }

  /** Takes parameters, and costly values. */
  refresh(lowered: LoweredLook, values: WholeValues): void {
    const { gatherer } = this.material
    const read = reader(lowered.look)
    gatherer.give(values)
    gatherer.refresh(read)
    const sources = this.repetition.take(read)
    if (sources !== this.cutting?.sources) this.cutFor(sources)
    const { halves } = this.cutting ?? {}
    for (const program of [this.whole, halves?.head, halves?.tail]) program?.take(read, values)
  }

  private cutFor(sources: ReadonlySet<Ref> | undefined): void {
    this.dropCutting()
    const { material, written, roots, compile } = this
    if (!sources || !compile) return
    const { program } = this.lowered
    const { refs, ...plans } = cutInTwo(program, roots, sources, KEPT_PICTURES * 4)
    this.cutting = { sources, refs, kept: new Map() }
    if (!refs.length) return
    const pictures = Math.ceil(refs.length / 4)
    const lanes = Array.from({ length: pictures * 4 }, (_, i) => refs[i])
    const ground = Array.from({ length: pictures }, () => 'vec4(0.0)')
    const head = new CardProgram(material, plans.head, { lanes, ground })
    const tail = new CardProgram(material, plans.tail, written)
    this.cutting.halves = { head, tail }
    void compile(head).then(() => compile(tail))
  }

  evaluate(renderer: WebGLRenderer, full: FullPass, camera: Camera, sample: Sample, slot: Slot): void {
    // From behind: what is in front covers it, or lets it be seen.
    const layers = this.lowered.sets.has('opacity') ? [...sample.layers.keys()].reverse() : [0]
    const { target } = sample.channels[slot]!
    const given = this.keptAt(renderer, full, camera, sample, layers)
    const program = given ? this.halves!.tail : this.whole
    program.update(renderer, full, camera)
    program.place(sample)
    renderer.setRenderTarget(target)
    renderer.setClearColor(0x000000, 0)
    renderer.clear()
    for (const layer of layers)
      program.draw(renderer, full, camera, { sample, layer, target }, given?.[layer]!.textures)
  }

  /** What is kept at the points of a sample, made anew where it has changed; undefined where nothing is. */
  private keptAt(
    renderer: WebGLRenderer,
    full: FullPass,
    camera: Camera,
    sample: Sample,
    layers: readonly number[],
  ): WebGLRenderTarget[] | undefined {
    const { cutting, halves } = this
    if (!cutting || !halves) return undefined
    const { width, height } = sample
    const pictures = Math.ceil(cutting.refs.length / 4)
    // Hands rest where pixels are shifted: what is seen there is asked for once.
    if (sample.number > 0) this.dropKept()
    if (sample.number > 0 || width * height * layers.length * pictures * 16 > KEPT_BYTES) return undefined
    const { head } = halves
    head.update(renderer, full, camera)
    const old = cutting.kept.get(sample)
    if (old && old.version === head.version && old.layers.length === layers.length) return old.layers
    this.drop(sample)
    head.place(sample)
    const made = layers.map(() => {
      const target = numbersTarget(width, height, pictures)
      renderer.initRenderTarget(target)
      return target
    })
    for (const layer of layers) head.draw(renderer, full, camera, { sample, layer, target: made[layer]! })
    cutting.kept.set(sample, { version: head.version, layers: made })
    return made
  }

  /** A sample whose points are no longer those that they were. */
  drop(sample: Sample): void {
    for (const target of this.cutting?.kept.get(sample)?.layers ?? []) target.dispose()
    this.cutting?.kept.delete(sample)
  }

  private dropKept(): void {
    for (const sample of this.cutting?.kept.keys() ?? []) this.drop(sample)
  }

  private dropCutting(): void {
    this.dropKept()
    this.cutting?.halves?.head.dispose()
    this.cutting?.halves?.tail.dispose()
    this.cutting = undefined
  }

  dispose(): void {
    this.dropCutting()
    this.whole.dispose()
    this.material.pictures.dispose()
  }
}
