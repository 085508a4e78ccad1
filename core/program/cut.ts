import type { Pin } from '../graph/types'
import type { ParamReader, Program } from './lower'
import { isGathered, readsOf, SURFACE, type OpName, type Ref } from './ops'
import { operands, plan, type Plan } from './plan'

/** What an instruction costs at a point, in additions: measured on the kernels, rounded. Those not named cost one. */
const COST: Partial<Record<OpName | 'picture' | 'surface', number>> = {
  noise3: 30,
  fractal3: 120,
  worley3: 180,
  worley3second: 180,
  worley3cell: 180,
  cell3: 8,
  picture: 60,
  fitChroma: 40,
  pow: 8,
  cbrt: 6,
  sin: 4,
  cos: 4,
  exp2: 4,
  log2: 4,
  surface: 4,
}
/** A value that costs less than this is computed again: keeping it means reading and writing a column of memory. */
const DEAR = 24

/** What a look says at one place of a program. Pins are the same list as long as nobody changes them. */
export type SourceValue = number | readonly Pin[]

/** All that a program reads of a look, by the instruction that reads it. */
export function sourceValues(program: Program, read: ParamReader): Map<Ref, SourceValue> {
  const values = new Map<Ref, SourceValue>()
  program.code.forEach((i, ref) => {
    if (i.op === 'param') values.set(ref, read(i.ref))
    else if (i.op === 'pinned') values.set(ref, read.pins?.(i.node, i.param) ?? 0)
  })
  return values
}

const isAmong = (refs: readonly Ref[], set: ReadonlySet<Ref> | undefined): boolean =>
  set !== undefined && refs.every(ref => set.has(ref))

/** Follows what of a look changes from one time to the next, as a slider does while it is dragged. */
export class Repetition {
  private last?: ReadonlyMap<Ref, SourceValue>
  /** What changed last. */
  private changing: ReadonlySet<Ref> = new Set()
  private sources?: ReadonlySet<Ref>

  constructor(private readonly program: Program) {}

  /**
   * Takes the look as it is now.
   * @returns the instructions that change again and again, the same set while they do; undefined where there are none.
   * One change says nothing yet of the next.
   */
  take(read: ParamReader): ReadonlySet<Ref> | undefined {
    const now = sourceValues(this.program, read)
    const { last } = this
    const changed = last ? [...now.keys()].filter(ref => last.get(ref) !== now.get(ref)) : []
    this.last = now
    if (changed.length && !isAmong(changed, this.sources)) {
      this.sources = isAmong(changed, this.changing) ? this.changing : undefined
      this.changing = new Set(changed)
    }
    return this.sources
  }
}

/**
 * The values of a program that may change with some of its instructions: themselves, and all that reads them.
 * @param sources the instructions whose values change
 * @param through whether what is gathered changes with what it is gathered of; else, at single points, it is among the
 * sources or stays
 */
export function touchedBy(
  program: Program,
  sources: ReadonlySet<Ref>,
  through: 'points' | 'gathered' = 'gathered',
): Set<Ref> {
  const touched = new Set<Ref>()
  program.code.forEach((instruction, ref) => {
    const gathers = isGathered(instruction) && through === 'gathered'
    const reads = gathers ? readsOf(instruction) : operands(program, ref)
    if (sources.has(ref) || reads.some(r => touched.has(r))) touched.add(ref)
  })
  return touched
}

/**
 * Where a program is cut while something of it changes again and again: the values of the surface that stay, that are
 * read by what changes (or are roots), and that are too dear to be computed each time.
 * @param most how many values can be kept: the dearest are
 * @returns values in the order of the code; what they need is computed once, the rest with them as given
 */
export function cut(program: Program, roots: readonly Ref[], touched: ReadonlySet<Ref>, most = Infinity): Ref[] {
  const kept = new Map<Ref, number>()
  const seen = new Set<Ref>()
  const queue = [...roots]
  for (let ref = queue.pop(); ref !== undefined; ref = queue.pop()) {
    if (seen.has(ref) || program.domains[ref] !== SURFACE) continue
    seen.add(ref)
    if (touched.has(ref)) queue.push(...operands(program, ref))
    else kept.set(ref, costOf(program, ref))
  }
  const dear = [...kept].filter(([, cost]) => cost > DEAR).sort(([, a], [, b]) => b - a)
  return dear
    .slice(0, most)
    .map(([ref]) => ref)
    .sort((a, b) => a - b)
}

/** A program in two: what stays while some of its instructions change, and the rest, which is given it. */
export interface Halves {
  refs: readonly Ref[]
  head: Plan
  tail: Plan
}

/** Cuts a program (see `cut`) for instructions that change again and again. */
export function cutInTwo(program: Program, roots: readonly Ref[], sources: ReadonlySet<Ref>, most?: number): Halves {
  const refs = cut(program, roots, touchedBy(program, sources), most)
  return { refs, head: plan(program, refs), tail: plan(program, roots, refs) }
}

/** What a value and all it needs of the surface cost at a point. */
function costOf(program: Program, root: Ref): number {
  const seen = new Set<Ref>()
  const queue = [root]
  let sum = 0
  for (let ref = queue.pop(); ref !== undefined; ref = queue.pop()) {
    if (seen.has(ref) || program.domains[ref] !== SURFACE) continue
    seen.add(ref)
    sum += COST[program.code[ref]!.op as OpName] ?? 1
    queue.push(...operands(program, ref))
  }
  return sum
}
