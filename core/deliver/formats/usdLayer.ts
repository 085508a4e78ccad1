import { proceduralBeside, variantName, type Carries, type Leaving } from './declare'

/** What a USD layer carries, by itself or in a package. */
export const USD_CARRIES: Carries = {
  baseColor: 'picture or `displayColor`',
  metalRough: 'pictures',
  occlusion: 'picture',
  normal: 'picture, if chosen',
  height: 'displacement, if chosen',
  emission: 'picture',
  opacity: 'picture',
  translucency: 'picture (MaterialX network)',
  values: 'primvars',
  variants: 'variant set',
}

/**
 * The mesh with the look on it as a USD layer.
 * @param beside whether the layer is a file beside the others, so that it can refer to the procedural document
 */
export async function usdLayer(leaving: Leaving, beside: boolean): Promise<string> {
  const { stem, tables, delivered, subjects, values, vertexColors, keys } = leaving
  const { writeUsd } = await import('../../exchange/writeUsd')
  const color = vertexColors && { name: 'displayColor', components: 3 as const, values: vertexColors, color: true }
  return writeUsd(delivered.mesh, stem, {
    surfaces: subjects.map(({ name, subject }, v) =>
      subject.usdSurface(variantName(leaving, name), leaving.picture(v)),
    ),
    ...(beside && subjects[0]?.subject.procedural && { procedural: proceduralBeside(leaving) }),
    partOfTriangle: delivered.partOfTriangle,
    ...(keys && { keys }),
    sets: keys ? tables.sets.map(s => ({ name: s.set.name, members: s.members })) : [],
    primvars: [...(color ? [color] : []), ...values],
  })
}
