import { Solver, stiffness } from '../geometry/curvature'
import { islandsOf, type Island } from '../geometry/islands'
import { spreadOut, surfaceOf, type Around, type Surface } from '../geometry/surface'
import { atOnce } from '../pieces'
import type { MeshTables } from './tables'

/** What diffusion needs of a mesh; what only some of it does is made when it is first needed. */
interface Diffusing {
  surface: Surface
  islands?: Island[]
  around?: Around
}
const known = new WeakMap<Float32Array, Diffusing>()
/** What is kept of a mesh, as long as its vertices stay the same array. */
export function diffusing({ mesh, parts }: MeshTables): Diffusing {
  let found = known.get(mesh.positions)
  if (!found) known.set(mesh.positions, (found = { surface: surfaceOf(mesh, parts) }))
  return found
}

/** A column per vertex of the mesh as one per welded vertex: the mean where several are one, so that no seam shows. */
export function meanOf({ of, count }: Surface, values: Float32Array): Float64Array {
  const sums = new Float64Array(count)
  const times = new Uint32Array(count)
  of.forEach((v, i) => {
    sums[v]! += values[i]!
    times[v]!++
  })
  return sums.map((x, v) => x / Math.max(1, times[v]!))
}

/** What is left of the change shrinks by this much: a mask is then off by 1e-4 at most. */
const PRECISION = 1e-6

/**
 * Softens a column over the surface: one implicit step of the heat equation, (M + tL) x = M f with t = radius² / 2, on
 * the cotangent matrix; a point spreads about as far as the radius. The mean by area stays what it was, since L's rows
 * add up to 0. Solved for what changes, x − f, on each island of the surface.
 * @param radius in meters
 */
export const soften = (tables: MeshTables, values: Float32Array, radius: number): Float32Array =>
  atOnce(softening(tables, values, radius))
/** The same piece by piece: whoever runs it may do something else in between. */
export function* softening(tables: MeshTables, values: Float32Array, radius: number): Generator<void, Float32Array> {
  if (!(radius > 0)) return values.slice()
  const entry = diffusing(tables)
  const { surface } = entry
  entry.islands ??= [...islandsOf(surface.positions, stiffness(surface))]
  const x = meanOf(surface, values)
  for (const island of entry.islands) {
    const { vertices } = island
    // One coordinate has the column, the two others nothing.
    const column = new Float64Array(vertices.length * 3)
    vertices.forEach((i, n) => {
      column[n * 3] = x[i]!
    })
    const solver = new Solver({ ...island, positions: column }, PRECISION)
    yield* solver.solving((radius * radius) / 2)
    vertices.forEach((i, n) => {
      x[i]! += solver.d[n * 3]!
    })
  }
  return spreadOut(surface, x)
}
