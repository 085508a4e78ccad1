import { triangleAreas, type Mesh, type VertexMap } from './mesh'

/** One number of a vertex map over the surface: `shares` are by area and add up to 1. */
export interface MapReading {
  low: number
  high: number
  mean: number
  /** Vertices where the lowest and the highest value stand. */
  lowest: number
  highest: number
  shares: number[]
}

export const READING_BINS = 64

/**
 * Reads one component of a map; a vertex counts with a third of the area of the triangles around it. Bins run from
 * `low` to `high`.
 */
export function readVertexMap(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  map: VertexMap,
  component: number,
): MapReading {
  const { indices } = mesh
  const { values, components } = map
  const areas = triangleAreas(mesh)
  const weight = new Float64Array(mesh.positions.length / 3)
  for (let i = 0; i < indices.length; i++) weight[indices[i]!]! += areas[(i / 3) | 0]! / 3
  let low = Infinity
  let high = -Infinity
  let lowest = 0
  let highest = 0
  let sum = 0
  let total = 0
  for (let v = 0; v < weight.length; v++) {
    if (!weight[v]) continue
    const x = values[v * components + component]!
    if (x < low) {
      low = x
      lowest = v
    }
    if (x > high) {
      high = x
      highest = v
    }
    sum += weight[v]! * x
    total += weight[v]!
  }
  const shares = new Array<number>(READING_BINS).fill(0)
  if (!total) return { low: 0, high: 0, mean: 0, lowest, highest, shares }
  for (let v = 0; v < weight.length; v++) {
    if (!weight[v]) continue
    const t = high > low ? (values[v * components + component]! - low) / (high - low) : 0
    shares[Math.min(READING_BINS - 1, Math.floor(t * READING_BINS))]! += weight[v]! / total
  }
  return { low, high, mean: sum / total, lowest, highest, shares }
}
