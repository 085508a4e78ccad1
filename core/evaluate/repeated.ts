import type { Kernels } from '../kernels/kernels'
import type { SurfacePoints } from '../mesh/sample'
import { cutInTwo, Repetition } from '../program/cut'
import type { ParamReader, Program } from '../program/lower'
import type { Ref } from '../program/ops'
import { plan, type Plan } from '../program/plan'
import { Evaluator } from './evaluator'
import type { Gatherer } from './gather'
import type { MeshTables } from './tables'

/** Points at which a program is evaluated again and again, with what is kept for them from one time to the next. */
export interface Site {
  readonly points: SurfacePoints
  kept?: { cutting: Cutting; version: number; columns: readonly Float32Array[] }
}

/** A program in two: what stays while some instructions change, and the rest, which is given it. */
interface Cutting {
  sources: ReadonlySet<Ref>
  head: Evaluator
  tail: Evaluator
  refs: readonly Ref[]
  /** Counts the changes of what the head reads. */
  version: number
}

/**
 * A program that is evaluated at the same points again and again while its parameters change. From the second change of
 * the same parameters on it is cut where the dear values end that the changes leave alone; those are kept at each
 * {@link Site}.
 */
export class RepeatedEvaluator {
  private readonly whole: Evaluator
  private readonly repetition: Repetition
  private cutting?: Cutting
  /** Points at which the whole program, or what a cut leaves of it, was run since the beginning. */
  evaluated = 0

  /** @param roots the values wanted at each point */
  constructor(
    private readonly kernels: Kernels,
    private readonly program: Program,
    private readonly roots: readonly Ref[],
    private readonly tables: MeshTables,
    private readonly gatherer: Gatherer,
  ) {
    this.whole = new Evaluator(kernels, plan(program, roots), tables, gatherer)
    this.repetition = new Repetition(program)
  }

  /** Takes the parameters as they are now. */
  refresh(read: ParamReader): void {
    const sources = this.repetition.take(read)
    this.gatherer.refresh(read)
    // What changes once is run as a whole, which needs no preparation.
    if (sources !== this.cutting?.sources) this.cutting = sources && this.cutFor(sources)
    const { cutting } = this
    if (!cutting) {
      this.whole.refresh(read)
      return
    }
    const { uniforms, parts, vertices } = cutting.head.refresh(read)
    if (uniforms || parts || vertices) cutting.version++
    cutting.tail.refresh(read)
  }

  private cutFor(sources: ReadonlySet<Ref>): Cutting {
    const { kernels, program, roots, tables, gatherer } = this
    const { refs, head, tail } = cutInTwo(program, roots, sources)
    const half = (of: Plan): Evaluator => new Evaluator(kernels, of, tables, gatherer)
    return { sources, head: half(head), tail: half(tail), refs, version: 0 }
  }

  /** Evaluates at the points of a site. `out[i]` receives root `i`. */
  evaluate(site: Site, out: readonly Float32Array[]): void {
    const { cutting } = this
    this.evaluated += site.points.count
    if (!cutting) {
      this.whole.evaluate(site.points, out)
      return
    }
    const { head, tail, refs, version } = cutting
    if (site.kept?.cutting !== cutting || site.kept.version !== version) {
      const columns = refs.map(() => new Float32Array(site.points.count))
      head.evaluate(site.points, columns)
      site.kept = { cutting, version, columns }
    }
    tail.evaluate(site.points, out, site.kept.columns)
  }
}
