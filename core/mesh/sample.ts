import { triangleAreas, type Mesh } from './mesh'
import type { Parts } from './parts'

/** How wide the surface is that each point stands for: along the UVs, the same for all, or in meters. */
export type Footprint = { uv: number } | { meters: () => Float32Array }

/** Points on the surface: a triangle and the weights of its second and third corner. */
export interface SurfacePoints {
  count: number
  triangle: Uint32Array
  /** Weight of the second corner; the first has what is left of 1. */
  u: Float32Array
  v: Float32Array
  /** Absent where a point is its place alone. */
  footprint?: Footprint
}

/** A number of a vertex column, `stride` numbers to a vertex, between the corners of a triangle. */
export function valueAt(
  indices: ArrayLike<number>,
  values: ArrayLike<number>,
  stride: number,
  lane: number,
  triangle: number,
  u: number,
  v: number,
): number {
  const corner = (k: number): number => values[indices[triangle * 3 + k]! * stride + lane]!
  return corner(0) * (1 - u - v) + corner(1) * u + corner(2) * v
}

export const pointSet = (count: number): SurfacePoints => ({
  count,
  triangle: new Uint32Array(count),
  u: new Float32Array(count),
  v: new Float32Array(count),
})

/** Additive recurrence with the plastic number (Martin Roberts' R2 sequence), folded into the triangle. */
function place(points: SurfacePoints, i: number, n: number): void {
  let a = 0.5 + n * 0.7548776662466927
  let b = 0.5 + n * 0.5698402909980532
  a -= Math.floor(a)
  b -= Math.floor(b)
  if (a + b > 1) {
    a = 1 - a
    b = 1 - b
  }
  points.u[i] = a
  points.v[i] = b
}

/**
 * Points spread evenly by area over some triangles: each stands for the same area, and there is one in every stretch of
 * `area / count` along the list, so every triangle gets its share to within one point.
 */
function spread(
  points: SurfacePoints,
  from: number,
  count: number,
  triangles: Uint32Array,
  areas: Float64Array,
  length: number,
): void {
  let total = 0
  for (let i = 0; i < length; i++) total += areas[triangles[i]!]!
  let at = 0
  let sum = areas[triangles[0]!]!
  for (let i = 0; i < count; i++) {
    const goal = ((i + 0.5) / count) * total
    while (sum < goal && at < length - 1) sum += areas[triangles[++at]!]!
    points.triangle[from + i] = triangles[at]!
    place(points, from + i, i)
  }
}

/** Kept per mesh: by its positions, which stay the same array while its vertices do. */
const known = new WeakMap<Float32Array, { indices: Uint32Array; areas: Float64Array }>()
function areasOf({ positions, indices }: Mesh): Float64Array {
  const old = known.get(positions)
  if (old?.indices === indices) return old.areas
  const areas = triangleAreas({ positions, indices })
  known.set(positions, { indices, areas })
  return areas
}

/** The fixed points behind every histogram and statistic: `count` of them, evenly by area over the whole mesh. */
export function samplePoints(mesh: Mesh, count: number): SurfacePoints {
  const areas = areasOf(mesh)
  const points = pointSet(count)
  const all = new Uint32Array(areas.length)
  for (let t = 0; t < all.length; t++) all[t] = t
  spread(points, 0, count, all, areas, areas.length)
  return points
}

/** `perPart` points evenly by area over each part, in the order of the parts. */
export function samplePartPoints(mesh: Mesh, parts: Parts, perPart: number): SurfacePoints {
  const areas = areasOf(mesh)
  const points = pointSet(parts.parts.length * perPart)
  const starts = new Uint32Array(parts.parts.length + 1)
  // Counted here: on an analysis mesh a part has more triangles than in its file.
  for (const n of parts.partOfTriangle) starts[n + 1]!++
  for (let i = 0; i < parts.parts.length; i++) starts[i + 1]! += starts[i]!
  const sorted = new Uint32Array(areas.length)
  const next = starts.slice()
  for (let t = 0; t < areas.length; t++) sorted[next[parts.partOfTriangle[t]!]!++] = t
  parts.parts.forEach((_, i) =>
    spread(points, i * perPart, perPart, sorted.subarray(starts[i], starts[i + 1]), areas, starts[i + 1]! - starts[i]!),
  )
  return points
}
