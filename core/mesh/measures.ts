import type { Contacts } from './contacts'
import { eigen3 } from './eigen'
import type { Mesh } from './mesh'
import type { MeasureName } from './partSets'
import type { Parts } from './parts'

/** One column per measure, one number per part. */
export type Measures = Record<MeasureName, Float64Array>

/** What the measures mean, and their units. Sides are those of the box along the part's own axes. */
export const MEASURE_WORDS: Record<MeasureName, { title: string; unit: 'm' | 'm²' | 'm³' | '' }> = {
  area: { title: 'Area', unit: 'm²' },
  volume: { title: 'Volume', unit: 'm³' },
  length: { title: 'Length', unit: 'm' },
  width: { title: 'Width', unit: 'm' },
  thickness: { title: 'Thickness', unit: 'm' },
  flatness: { title: 'Flatness', unit: '' },
  triangles: { title: 'Triangles', unit: '' },
  height: { title: 'Height', unit: 'm' },
  neighbors: { title: 'Neighbors', unit: '' },
}

type Triangles = Pick<Mesh, 'positions' | 'indices'>

/**
 * Measures every part. Volume is the sum of signed tetrahedra about the part's center (right for closed parts; 0 is
 * reported where the sum is negative). Length, width and thickness are the sides of the box along the part's own axes,
 * longest first; flatness is 1 − thickness / width (0 for a rod or a cube, 1 for a sheet). Height is that of the
 * centroid above the mesh's lowest point.
 * @param contacts where known; without them `neighbors` is 0
 */
export function measureParts(mesh: Triangles, parts: Parts, contacts?: Contacts): Measures {
  const neighbors = new Float64Array(parts.parts.length)
  if (contacts) for (const n of contacts.pairs) neighbors[n]!++
  const old = known.get(parts.parts)
  if (old?.mesh.positions === mesh.positions && old.mesh.indices === mesh.indices) return { ...old.measures, neighbors }
  const measures = measured(mesh, parts)
  known.set(parts.parts, { mesh: { positions: mesh.positions, indices: mesh.indices }, measures })
  return { ...measures, neighbors }
}
/** What was measured of parts: groups, sets and contacts change, and these stay. */
const known = new WeakMap<Parts['parts'], { mesh: Triangles; measures: Omit<Measures, 'neighbors'> }>()

function measured(mesh: Triangles, parts: Parts): Omit<Measures, 'neighbors'> {
  const list = parts.parts
  const { volume, axes } = volumesAndAxes(mesh, parts)
  const sides = sidesAlong(mesh, parts, axes)
  const column = (value: (n: number) => number) => Float64Array.from({ length: list.length }, (_, n) => value(n))
  const floor = list.reduce((least, part) => Math.min(least, part.min[1]), Infinity)
  return {
    area: column(n => list[n]!.area),
    volume: column(n => Math.max(0, volume[n]!)),
    length: column(n => sides[n]![0]!),
    width: column(n => sides[n]![1]!),
    thickness: column(n => sides[n]![2]!),
    flatness: column(n => (sides[n]![1]! > 0 ? 1 - sides[n]![2]! / sides[n]![1]! : 0)),
    triangles: column(n => list[n]!.triangles),
    height: column(n => list[n]!.centroid[1] - floor),
  }
}

/**
 * Signed volumes, and the own axes of each part: nine numbers. Sums are taken about the centroid, which keeps small
 * parts exact far from the origin.
 */
function volumesAndAxes(
  { positions: p, indices }: Triangles,
  parts: Parts,
): { volume: Float64Array; axes: Float64Array } {
  const list = parts.parts
  const count = list.length
  const volume = new Float64Array(count)
  const second = new Float64Array(count * 6)
  for (let t = 0; t < indices.length / 3; t++) {
    const n = parts.partOfTriangle[t]!
    const c = list[n]!.centroid
    const q = n * 6
    const a = indices[t * 3]! * 3
    const b = indices[t * 3 + 1]! * 3
    const d = indices[t * 3 + 2]! * 3
    const ax = p[a]! - c[0]
    const ay = p[a + 1]! - c[1]
    const az = p[a + 2]! - c[2]
    const bx = p[b]! - c[0]
    const by = p[b + 1]! - c[1]
    const bz = p[b + 2]! - c[2]
    const dx = p[d]! - c[0]
    const dy = p[d + 1]! - c[1]
    const dz = p[d + 2]! - c[2]
    volume[n]! += (ax * (by * dz - bz * dy) + ay * (bz * dx - bx * dz) + az * (bx * dy - by * dx)) / 6
    const ux = bx - ax
    const uy = by - ay
    const uz = bz - az
    const vx = dx - ax
    const vy = dy - ay
    const vz = dz - az
    const w = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2
    const x = (ax + bx + dx) / 3
    const y = (ay + by + dy) / 3
    const z = (az + bz + dz) / 3
    second[q]! += w * x * x
    second[q + 1]! += w * x * y
    second[q + 2]! += w * x * z
    second[q + 3]! += w * y * y
    second[q + 4]! += w * y * z
    second[q + 5]! += w * z * z
  }
  const axes = new Float64Array(count * 9)
  for (let n = 0; n < count; n++)
    eigen3(second.subarray(n * 6, n * 6 + 6)).vectors.forEach((v, k) => axes.set(v, n * 9 + k * 3))
  return { volume, axes }
}

/** The extents of each part along its own axes, longest first. */
function sidesAlong({ positions: p, indices }: Triangles, parts: Parts, axes: Float64Array): number[][] {
  const count = parts.parts.length
  const low = new Float64Array(count * 3).fill(Infinity)
  const high = new Float64Array(count * 3).fill(-Infinity)
  for (let i = 0; i < indices.length; i++) {
    const v = indices[i]! * 3
    const n = parts.partOfTriangle[(i / 3) | 0]!
    for (let k = 0; k < 3; k++) {
      const s =
        p[v]! * axes[n * 9 + k * 3]! + p[v + 1]! * axes[n * 9 + k * 3 + 1]! + p[v + 2]! * axes[n * 9 + k * 3 + 2]!
      if (s < low[n * 3 + k]!) low[n * 3 + k] = s
      if (s > high[n * 3 + k]!) high[n * 3 + k] = s
    }
  }
  return parts.parts.map((_, n) =>
    [0, 1, 2].map(k => Math.max(0, high[n * 3 + k]! - low[n * 3 + k]!)).sort((a, b) => b - a),
  )
}
