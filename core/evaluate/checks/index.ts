import type { Finding } from '../../graph/check'
import type { Look } from '../../graph/look'
import type { Kernels } from '../../kernels/kernels'
import { atOnce } from '../../pieces'
import type { LaidLook } from '../laidLook'
import type { MeshTables } from '../tables'
import alikeNeighbors from './alikeNeighbors'
import { Checked, type ValueCheck } from './declare'
import fineDetail from './fineDetail'
import masks from './masks'
import ownNormals from './ownNormals'
import paletteShares from './paletteShares'
import realSurface from './realSurface'
import sameDraws from './sameDraws'
import seams from './seams'
import shineThrough from './shineThrough'
import steepHeight from './steepHeight'

/** Everything that is looked for, in the order in which it is told. */
export const VALUE_CHECKS: readonly ValueCheck[] = [
  masks,
  sameDraws,
  seams,
  fineDetail,
  shineThrough,
  realSurface,
  steepHeight,
  alikeNeighbors,
  paletteShares,
  ownNormals,
]

/**
 * What is wrong with a look on a mesh: what only its values tell. The other checks are in `core/graph/check.ts`.
 * @param texels along each side of the texture that is to be delivered
 * @param laid the look on this mesh, where somebody has it
 */
export const checkValues = (
  kernels: Kernels,
  tables: MeshTables,
  look: Look,
  texels = 1024,
  laid?: LaidLook,
): Finding[] => atOnce(checkingValues(kernels, tables, look, texels, laid))

/** The same piece by piece: whoever runs it may do something else in between. */
export function* checkingValues(
  kernels: Kernels,
  tables: MeshTables,
  look: Look,
  texels: number,
  laid?: LaidLook,
): Generator<void, Finding[]> {
  const checked = new Checked(kernels, tables, look, texels, laid)
  yield* checked.ready()
  for (const check of VALUE_CHECKS) {
    check.run(checked)
    yield
  }
  return checked.found
}
