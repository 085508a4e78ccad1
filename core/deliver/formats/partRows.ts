import type { PartValues } from '../../bake/values'
import { plainName } from '../../exchange/names'
import { fileOfVariant, type Carries, type Leaving } from './declare'

const SPREAD = 'mean and spread'
/** What a table of parts carries. */
export const TABLE_CARRIES: Carries = {
  baseColor: SPREAD,
  metalRough: SPREAD,
  height: SPREAD,
  emission: SPREAD,
  opacity: SPREAD,
  translucency: SPREAD,
  values: 'draws, palette entry',
  variants: 'a table each',
}

/** What each variant comes to on each part, and the name of its file without an ending. */
export async function partRows(leaving: Leaving): Promise<[file: string, values: PartValues[]][]> {
  const { partValues } = await import('../../bake/values')
  return leaving.subjects.map(({ name, look, subject }) => [
    fileOfVariant(leaving, plainName(name)),
    partValues(subject.baker.laid, look),
  ])
}
