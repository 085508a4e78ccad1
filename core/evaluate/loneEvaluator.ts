import type { Kernels } from '../kernels/kernels'
import type { ParamReader } from '../program/lower'
import type { Plan } from '../program/plan'
import { Evaluator } from './evaluator'
import { Gatherer } from './gather'
import type { MeshTables } from './tables'

/** An evaluator with a gatherer of its own, which is refreshed with it. */
export class LoneEvaluator extends Evaluator {
  constructor(kernels: Kernels, plan: Plan, tables: MeshTables) {
    super(kernels, plan, tables, new Gatherer(kernels, plan.program, tables))
  }

  override refresh(read: ParamReader, upTo?: 'parts' | 'vertices'): ReturnType<Evaluator['refresh']> {
    this.gatherer.refresh(read)
    return super.refresh(read, upTo)
  }
}
