import { BLOCK, type Kernels } from '../kernels/kernels'
import type { SurfacePoints } from '../mesh/sample'
import { sourceValues, touchedBy, type SourceValue } from '../program/cut'
import type { ParamReader, Program } from '../program/lower'
import { SURFACE, type Ref } from '../program/ops'
import { plan } from '../program/plan'
import { atOnce } from '../pieces'
import { Evaluator } from './evaluator'
import type { Gatherer } from './gather'
import type { MeshTables } from './tables'

/** Values at points that stay: one column for each root, of which some may be out of date. */
export interface Followed {
  readonly points: SurfacePoints
  readonly columns: ReadonlyMap<Ref, Float32Array>
  readonly stale: Set<Ref>
}

/** Programs for sets of roots that are kept: a drag asks for the same one again and again. */
const KEPT = 4
/** Points at which values are found before others have a turn. */
const PIECE = 4 * BLOCK

/**
 * A program whose parameters change while its values are wanted at the same points. After a change only those roots are
 * computed again that it touches, from the other roots, which are known.
 */
export class FollowingEvaluator {
  private readonly roots: readonly Ref[]
  private readonly gathered: readonly Ref[]
  private last?: ReadonlyMap<Ref, SourceValue>
  private readonly followed = new Set<Followed>()
  private readonly evaluators = new Map<string, Evaluator>()
  private read?: ParamReader
  /** How often parameters were taken. */
  private taken = 0

  /** @param gatherer computes what needs the whole surface; it is refreshed here */
  constructor(
    private readonly kernels: Kernels,
    private readonly program: Program,
    roots: readonly Ref[],
    private readonly tables: MeshTables,
    private readonly gatherer: Gatherer,
  ) {
    this.roots = [...new Set(roots)]
    gatherer.need(this.roots)
    this.gathered = gatherer.gatheredFor(this.roots)
  }

  /** Makes room for values at some points. */
  follow(points: SurfacePoints): Followed {
    const columns = new Map(this.roots.map(ref => [ref, new Float32Array(points.count)]))
    const made = { points, columns, stale: new Set(this.roots) }
    this.followed.add(made)
    return made
  }

  /** Takes the parameters as they are now. */
  refresh(read: ParamReader): void {
    this.read = read
    this.taken++
    this.gatherer.refresh(read)
    const now = sourceValues(this.program, read)
    for (const ref of this.gathered) now.set(ref, this.gatherer.versionOf(ref))
    const { last } = this
    this.last = now
    if (!last) return
    const changed = [...now.keys()].filter(ref => last.get(ref) !== now.get(ref))
    if (!changed.length) return
    // Gathered values that came out as they were touch nothing.
    const touched = touchedBy(this.program, new Set(changed), 'points')
    const roots = this.roots.filter(ref => touched.has(ref))
    for (const { stale } of this.followed) for (const ref of roots) stale.add(ref)
  }

  /**
   * Brings values up to date.
   * @param only the roots that are wanted; all where it is left out
   * @returns the roots that were computed again
   */
  bring(followed: Followed, only?: ReadonlySet<Ref>): ReadonlySet<Ref> {
    return atOnce(this.bringing(followed, only))
  }
  /**
   * The same some thousand points at a time: whoever runs it may do something else in between. Where that takes other
   * parameters, what was wanted stays out of date.
   */
  *bringing(followed: Followed, only?: ReadonlySet<Ref>): Generator<void, ReadonlySet<Ref>> {
    const { points, columns, stale } = followed
    const wanted = this.roots.filter(ref => stale.has(ref) && (!only || only.has(ref)))
    if (!wanted.length || !this.read) return new Set()
    const { domains } = this.program
    const given = this.roots.filter(ref => domains[ref] === SURFACE && !stale.has(ref))
    const evaluator = this.evaluatorFor(wanted, given)
    evaluator.refresh(this.read)
    const of = (refs: readonly Ref[]): Float32Array[] => refs.map(ref => columns.get(ref)!)
    const { taken } = this
    const work = evaluator.evaluating(points, of(wanted), of(given), PIECE)
    while (!work.next().done) {
      yield
      if (taken !== this.taken) return new Set()
    }
    for (const ref of wanted) stale.delete(ref)
    return new Set(wanted)
  }

  private evaluatorFor(wanted: readonly Ref[], given: readonly Ref[]): Evaluator {
    const { kernels, program, tables, gatherer, evaluators } = this
    const key = `${wanted.join()} from ${given.join()}`
    const old = evaluators.get(key)
    if (old) return old
    if (evaluators.size >= KEPT) evaluators.delete(evaluators.keys().next().value!)
    const made = new Evaluator(kernels, plan(program, wanted, given), tables, gatherer)
    evaluators.set(key, made)
    return made
  }
}
