import type { Pin } from '../graph/types'
import type { ParamReader, Program } from './lower'
import { isGathered, readsOf, SURFACE, type OpName, type Ref } from './ops'
import { operands } from './plan'

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
 * @returns values in the order of the code; what they need is computed once, the rest with them as given
 */
export function cut(program: Program, roots: readonly Ref[], touched: ReadonlySet<Ref>): Ref[] {
  const kept = new Set<Ref>()
  const seen = new Set<Ref>()
  const queue = [...roots]
  for (let ref = queue.pop(); ref !== undefined; ref = queue.pop()) {
    if (seen.has(ref) || program.domains[ref] !== SURFACE) continue
    seen.add(ref)
    if (touched.has(ref)) queue.push(...operands(program, ref))
    else if (costOf(program, ref) > DEAR) kept.add(ref)
  }
  return [...kept].sort((a, b) => a - b)
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
