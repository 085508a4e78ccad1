import type { Kernels } from '../kernels/kernels'
import type { SurfacePoints } from '../mesh/sample'
import type { ParamReader, Program } from '../program/lower'
import type { Ref } from '../program/ops'
import { plan } from '../program/plan'
import { Evaluator } from './evaluator'
import { Gatherer } from './gather'
import type { MeshTables } from './tables'

/** Values of a program at points: one column for each. */
export type Sample = (points: SurfacePoints) => Float32Array[]

/**
 * Runs a program whose parameters stay as they are. What it needs of the whole surface is computed once, whatever is
 * asked.
 * @param accuracy points over the surface behind every statistic
 * @returns for some values what makes columns of them
 */
export function sampler(
  kernels: Kernels,
  tables: MeshTables,
  program: Program,
  read: ParamReader,
  accuracy?: number,
): (refs: readonly Ref[]) => Sample {
  const gatherer = new Gatherer(kernels, program, tables, 'here', accuracy)
  return refs => {
    const evaluator = new Evaluator(kernels, plan(program, refs), tables, gatherer)
    gatherer.refresh(read, refs)
    evaluator.refresh(read)
    return points => {
      const columns = refs.map(() => new Float32Array(points.count))
      evaluator.evaluate(points, columns)
      return columns
    }
  }
}
