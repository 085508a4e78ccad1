import { islandsOf, type Island } from './islands'
import { spreadOut, type Surface } from './surface'

/**
 * The stiffness matrix L of the surface in rows: for vertex `i` the entries `starts[i]`..`starts[i + 1]` name its
 * neighbors and their cotangent weights (Pinkall and Polthier 1993); `mass` is a third of the area of the triangles
 * around it.
 */
export interface Stiffness {
  starts: Uint32Array
  neighbors: Uint32Array
  weights: Float64Array
  diagonal: Float64Array
  mass: Float64Array
}

export function stiffness({ count, positions: p, triangles, edges }: Surface): Stiffness {
  const { a, b } = edges
  const weight = new Float64Array(a.length)
  const mass = new Float64Array(count)
  const starts = new Uint32Array(count + 1)
  // (1) Rows: each edge stands in two.
  for (let e = 0; e < a.length; e++) {
    starts[a[e]! + 1]!++
    starts[b[e]! + 1]!++
  }
  for (let i = 0; i < count; i++) starts[i + 1]! += starts[i]!
  const neighbors = new Uint32Array(starts[count]!)
  const entry = new Uint32Array(starts[count]!)
  const next = starts.slice(0, count)
  for (let e = 0; e < a.length; e++) {
    neighbors[next[a[e]!]!] = b[e]!
    entry[next[a[e]!]!++] = e
    neighbors[next[b[e]!]!] = a[e]!
    entry[next[b[e]!]!++] = e
  }
  // (2) Cotangents, found through the row of the smaller end.
  const edgeOf = (i: number, j: number): number => {
    for (let k = starts[i]!; k < starts[i + 1]!; k++) if (neighbors[k] === j) return entry[k]!
    return -1
  }
  for (let t = 0; t < triangles.length; t += 3) {
    const corner = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!] as const
    if (corner[0] === corner[1] || corner[1] === corner[2] || corner[2] === corner[0]) continue
    for (let k = 0; k < 3; k++) {
      const i = corner[k]!
      const j = corner[(k + 1) % 3]!
      const o = corner[(k + 2) % 3]!
      const ux = p[i * 3]! - p[o * 3]!
      const uy = p[i * 3 + 1]! - p[o * 3 + 1]!
      const uz = p[i * 3 + 2]! - p[o * 3 + 2]!
      const vx = p[j * 3]! - p[o * 3]!
      const vy = p[j * 3 + 1]! - p[o * 3 + 1]!
      const vz = p[j * 3 + 2]! - p[o * 3 + 2]!
      const double = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx)
      if (double <= 0) continue
      // A needle's cotangents have no bound; beyond 50 (1.1 degrees) they only spoil the solution.
      weight[edgeOf(i, j)]! += Math.max(-50, Math.min(50, (ux * vx + uy * vy + uz * vz) / double)) / 2
      mass[o]! += double / 6
    }
  }
  const weights = Float64Array.from(entry, e => Math.max(0, weight[e]!))
  const diagonal = new Float64Array(count)
  for (let i = 0; i < count; i++) for (let k = starts[i]!; k < starts[i + 1]!; k++) diagonal[i]! += weights[k]!
  return { starts, neighbors, weights, diagonal, mass }
}

/** Conjugate gradients stop when the residual has shrunk by this much: a thousandth of the largest value. */
const PRECISION = 1e-3
const MOST_STEPS = 400

/**
 * How far each vertex stands out from the surface around it: positive on edges and bulges, negative in grooves.
 *
 * The surface is smoothed by one implicit step of mean curvature flow, (M + tL) p' = M p with t = radius² / 2 (Desbrun
 * et al. 1999), and the way from p' to p along the normal is measured in units of half a radius. So a straight
 * right-angled edge has ±1, a sphere of radius R has 2q / (1 + q²) with q = radius / R, and a gently curved surface has
 * twice its mean curvature times the radius. Solved by conjugate gradients for the displacement, all three coordinates
 * together, on each island of the surface.
 *
 * @param radii in meters, smallest first: the solution at one is where the next begins
 * @returns a column of values per radius, unclamped, and the passes over the graph that each took
 */
export function standOut(
  { count, positions, normals }: Surface,
  matrix: Stiffness,
  radii: readonly number[],
  progress?: (share: number) => void,
  stopped?: () => boolean,
): { values: Float32Array[]; steps: number[] } {
  const values = radii.map(() => new Float32Array(count))
  const steps = radii.map(() => 0)
  let done = 0
  for (const island of islandsOf(positions, matrix)) {
    const { vertices } = island
    const solver = new Solver(island)
    const { d } = solver
    for (const [index, radius] of radii.entries()) {
      steps[index]! += (solver.solve((radius * radius) / 2, stopped) * vertices.length) / count
      const out = values[index]!
      vertices.forEach((i, n) => {
        out[i] = (-dot(d, n * 3, normals, i * 3) * 2) / radius
      })
      done += vertices.length / count / radii.length
      progress?.(Math.min(1, done))
    }
    if (stopped?.()) break
  }
  return { values, steps }
}

const dot = (a: Float64Array, at: number, b: Float64Array, from: number): number =>
  a[at]! * b[from]! + a[at + 1]! * b[from + 1]! + a[at + 2]! * b[from + 2]!

type Triple = [number, number, number]
const sum = ([x, y, z]: Triple): number => x + y + z
const ratios = (above: Triple, below: Triple): Triple =>
  above.map((x, k) => (below[k]! > 0 ? x / below[k]! : 0)) as Triple

/**
 * Conjugate gradients for (M + tL) d = −tLp, all three coordinates together, with the diagonal as preconditioner. What
 * was found for one t is where the next begins. Components are written out: every step passes over the whole island.
 */
class Solver {
  /** What is looked for: three numbers a vertex. */
  readonly d: Float64Array
  /** What is left, the direction of search, and what the matrix makes of it. */
  private readonly r: Float64Array
  private readonly s: Float64Array
  private readonly as: Float64Array
  /** One over the diagonal of M + tL. */
  private readonly inverse: Float64Array

  private readonly positions: Float64Array
  private readonly matrix: Stiffness

  constructor({ positions, matrix }: Island) {
    this.positions = positions
    this.matrix = matrix
    this.d = new Float64Array(positions.length)
    this.r = new Float64Array(positions.length)
    this.s = new Float64Array(positions.length)
    this.as = new Float64Array(positions.length)
    this.inverse = new Float64Array(positions.length / 3)
  }

  /** @returns how often it passed over the graph */
  solve(t: number, stopped?: () => boolean): number {
    const { mass, diagonal } = this.matrix
    const { inverse } = this
    for (let i = 0; i < inverse.length; i++) inverse[i] = 1 / Math.max(mass[i]! + t * diagonal[i]!, 1e-300)
    const begun = this.begin(t)
    let { rz } = begun
    const goal = begun.norm * PRECISION * PRECISION
    let step = 1
    for (; sum(rz) > goal && step < MOST_STEPS && !stopped?.(); step++) {
      const next = this.descend(ratios(rz, this.multiply(t)))
      this.turn(ratios(next, rz))
      rz = next
    }
    return step
  }

  /**
   * r = −tLp − (M + tL)d and s = r / diagonal.
   * @returns the products r · s, and the norm of −tLp that goes with them
   */
  private begin(t: number): { rz: Triple; norm: number } {
    const { d, r, s, inverse, positions } = this
    const count = inverse.length
    const { starts, neighbors, weights, diagonal, mass } = this.matrix
    let rz0 = 0
    let rz1 = 0
    let rz2 = 0
    let norm = 0
    for (let i = 0, q = 0; i < count; i++, q += 3) {
      let x = 0
      let y = 0
      let z = 0
      let ex = 0
      let ey = 0
      let ez = 0
      for (let k = starts[i]!; k < starts[i + 1]!; k++) {
        const w = weights[k]!
        const j = neighbors[k]! * 3
        x += w * positions[j]!
        y += w * positions[j + 1]!
        z += w * positions[j + 2]!
        ex += w * d[j]!
        ey += w * d[j + 1]!
        ez += w * d[j + 2]!
      }
      const g = diagonal[i]!
      const m = mass[i]!
      const v = inverse[i]!
      const bx = t * (x - g * positions[q]!)
      const by = t * (y - g * positions[q + 1]!)
      const bz = t * (z - g * positions[q + 2]!)
      r[q] = bx - (m + t * g) * d[q]! + t * ex
      r[q + 1] = by - (m + t * g) * d[q + 1]! + t * ey
      r[q + 2] = bz - (m + t * g) * d[q + 2]! + t * ez
      norm += v * (bx * bx + by * by + bz * bz)
      s[q] = r[q]! * v
      s[q + 1] = r[q + 1]! * v
      s[q + 2] = r[q + 2]! * v
      rz0 += r[q]! * s[q]!
      rz1 += r[q + 1]! * s[q + 1]!
      rz2 += r[q + 2]! * s[q + 2]!
    }
    return { rz: [rz0, rz1, rz2], norm }
  }

  /**
   * as = (M + tL)s, one pass over the graph.
   * @returns the products s · as
   */
  private multiply(t: number): Triple {
    const { s, as } = this
    const count = this.inverse.length
    const { starts, neighbors, weights, diagonal, mass } = this.matrix
    let sa0 = 0
    let sa1 = 0
    let sa2 = 0
    for (let i = 0, q = 0; i < count; i++, q += 3) {
      let x = 0
      let y = 0
      let z = 0
      for (let k = starts[i]!, end = starts[i + 1]!; k < end; k++) {
        const w = weights[k]!
        const j = neighbors[k]! * 3
        x += w * s[j]!
        y += w * s[j + 1]!
        z += w * s[j + 2]!
      }
      const g = mass[i]! + t * diagonal[i]!
      x = g * s[q]! - t * x
      y = g * s[q + 1]! - t * y
      z = g * s[q + 2]! - t * z
      as[q] = x
      as[q + 1] = y
      as[q + 2] = z
      sa0 += s[q]! * x
      sa1 += s[q + 1]! * y
      sa2 += s[q + 2]! * z
    }
    return [sa0, sa1, sa2]
  }

  /**
   * A step along s.
   * @returns the products of what is left with itself over the diagonal
   */
  private descend([a0, a1, a2]: Triple): Triple {
    const { d, r, s, as, inverse } = this
    let n0 = 0
    let n1 = 0
    let n2 = 0
    for (let i = 0, q = 0; i < inverse.length; i++, q += 3) {
      const v = inverse[i]!
      d[q]! += a0 * s[q]!
      d[q + 1]! += a1 * s[q + 1]!
      d[q + 2]! += a2 * s[q + 2]!
      const x = r[q]! - a0 * as[q]!
      const y = r[q + 1]! - a1 * as[q + 1]!
      const z = r[q + 2]! - a2 * as[q + 2]!
      r[q] = x
      r[q + 1] = y
      r[q + 2] = z
      n0 += v * x * x
      n1 += v * y * y
      n2 += v * z * z
    }
    return [n0, n1, n2]
  }

  /** The next direction: r over the diagonal, and some of the last one. */
  private turn([b0, b1, b2]: Triple): void {
    const { r, s, inverse } = this
    for (let i = 0, q = 0; i < inverse.length; i++, q += 3) {
      const v = inverse[i]!
      s[q] = r[q]! * v + b0 * s[q]!
      s[q + 1] = r[q + 1]! * v + b1 * s[q + 1]!
      s[q + 2] = r[q + 2]! * v + b2 * s[q + 2]!
    }
  }
}

/**
 * How sharply each vertex of the mesh is bent outward (`sign` 1) or inward (−1) at the size of a radius in meters, from
 * 0 to 1: what {@link standOut} finds, clamped.
 * @returns a number for each vertex of the mesh, not of the welded surface; undefined where it was stopped
 */
export function bent(
  { surface, stiffness: matrix }: { surface: Surface; stiffness: Stiffness },
  radius: number,
  sign: 1 | -1,
  progress?: (share: number) => void,
  stopped?: () => boolean,
): Float32Array | undefined {
  const { values } = standOut(surface, matrix, [radius], progress, stopped)
  if (stopped?.()) return undefined
  return spreadOut(
    surface,
    values[0]!.map(x => Math.min(1, Math.max(0, sign * x))),
  )
}
