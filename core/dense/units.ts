import type { Box } from '../mesh/mesh'

/** A dense mesh whose diagonal differs by more than this has other units. */
const OTHER_UNITS = 3
/** Factors between the units that meshes come in. */
const UNITS = [0.001, 0.01, 0.0254, 0.3048, 1 / 0.3048, 1 / 0.0254, 100, 1000]
/** How far a factor may be from the one that would fit exactly, as a logarithm. */
const NEAR_ENOUGH = 0.2

/**
 * How much larger a dense mesh is than the light one where its units seem to be others, and the factor that would mend
 * it, where one of the usual ones does.
 * @param diagonal of the light mesh, in meters
 */
export function otherUnits({ min, max }: Box, diagonal: number): { ratio: number; factor?: number } | undefined {
  const ratio = Math.hypot(...max.map((x, k) => x - min[k]!)) / diagonal
  if (ratio < OTHER_UNITS && ratio > 1 / OTHER_UNITS) return undefined
  const off = (factor: number): number => Math.abs(Math.log(ratio * factor))
  const [factor] = [...UNITS].sort((a, b) => off(a) - off(b))
  return { ratio, ...(off(factor!) < NEAR_ENOUGH && { factor: factor! }) }
}

/** What may lie between a dense mesh and a light one in the same place, as a share of the light one's diagonal. */
const BESIDE = 0.05

/**
 * Whether a dense mesh lies so far from a light one that hardly a ray would meet it.
 * @param diagonal of the light one
 */
export const apart = (dense: Box, light: Box, diagonal: number): boolean =>
  [0, 1, 2].some(k => {
    const slack = BESIDE * diagonal
    return dense.min[k]! > light.max[k]! + slack || dense.max[k]! < light.min[k]! - slack
  })
