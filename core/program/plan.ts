import type { Program } from './lower'
import { PART, SURFACE, UNIFORM, VERTEX, type Domain, type Ref } from './ops'

/**
 * What of a program has to run to know its roots, split by domain. A stage hands on (`out`) the values that a finer
 * stage, or a root, needs: uniforms become shader uniforms, part values a table, vertex values a vertex map.
 */
export interface Plan {
  program: Program
  roots: readonly Ref[]
  /** Values of the surface that are known at every point beforehand, and so are not computed. */
  given: readonly Ref[]
  stages: readonly [Stage, Stage, Stage, Stage]
}
export interface Stage {
  domain: Domain
  /** Instructions of this domain, each after its operands. */
  order: readonly Ref[]
  /** Values that this stage reads and does not make: those of coarser domains, and those that are given. */
  reads: readonly Ref[]
  out: readonly Ref[]
}

/** The values that an instruction maps, point by point. */
export const operands = (program: Program, ref: Ref): readonly Ref[] => {
  const i = program.code[ref]!
  return 'args' in i ? i.args : []
}

/** @param given values of the surface that whoever runs the plan has at every point */
export function plan(program: Program, roots: readonly Ref[], given: readonly Ref[] = []): Plan {
  const known = new Set(given)
  const live = new Set<Ref>()
  const queue = [...roots]
  for (let ref = queue.pop(); ref !== undefined; ref = queue.pop()) {
    if (live.has(ref) || known.has(ref)) continue
    live.add(ref)
    queue.push(...operands(program, ref))
  }
  // Operands always stand before their users, so the order of the code is an order of evaluation.
  const sorted = [...live].sort((a, b) => a - b)
  const handed = new Set(roots)
  for (const ref of sorted) {
    for (const a of operands(program, ref)) if (program.domains[a]! < program.domains[ref]!) handed.add(a)
  }
  const stage = (domain: Domain): Stage => {
    const order = sorted.filter(r => program.domains[r] === domain)
    const outside = (r: Ref): boolean => program.domains[r]! < domain || known.has(r)
    const reads = new Set(order.flatMap(r => operands(program, r).filter(outside)))
    return { domain, order, reads: [...reads], out: order.filter(r => handed.has(r)) }
  }
  return { program, roots, given, stages: [stage(UNIFORM), stage(PART), stage(VERTEX), stage(SURFACE)] }
}
