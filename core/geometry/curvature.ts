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

/** What is left shrinks by this much; no value is then off by more than some 0.005. */
const PRECISION = 5e-4
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
    const solver = new Solver(island, PRECISION)
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
 * Conjugate gradients for A d = −tLp with A = M + tL, all three coordinates of p together, preconditioned by one sweep
 * of Gauss and Seidel forth and one back. Scaled to a diagonal of ones A is I − C − Cᵀ, where C has what joins a vertex
 * to those before it. The sweeps take part in the unknowns: (I − C)⁻¹ A (I − Cᵀ)⁻¹ p = w + (I − C)⁻¹ (p − w) with
 * w = (I − Cᵀ)⁻¹ p, so that both together pass over the graph once (Eisenstat, "Efficient Implementation of a Class of
 * Preconditioned Conjugate Gradient Methods", 1981). What was found for one t is where the next begins. Components are
 * written out: every step passes over the whole island.
 */
export class Solver {
  /** What is looked for: three numbers a vertex. */
  readonly d: Float64Array
  /** The same scaled, what is left of the right side, the direction of search, and what the sweeps make of it. */
  private readonly x: Float64Array
  private readonly r: Float64Array
  private readonly p: Float64Array
  private readonly w: Float64Array
  private readonly u: Float64Array
  /** One over the root of A's diagonal. */
  private readonly scale: Float64Array
  /** Rows of C and, behind each, of Cᵀ: from `starts[i]` to `middles[i]`, and on to `starts[i + 1]`. */
  private readonly joined: Float64Array
  private readonly middles: Uint32Array

  private readonly positions: Float64Array
  private readonly matrix: Stiffness

  /** @param precision by how much what is left is to shrink */
  constructor(
    { positions, matrix, middles }: Island,
    private readonly precision: number,
  ) {
    this.positions = positions
    this.matrix = matrix
    this.middles = middles
    const count = positions.length / 3
    this.d = new Float64Array(count * 3)
    this.x = new Float64Array(count * 3)
    this.r = new Float64Array(count * 3)
    this.p = new Float64Array(count * 3)
    this.w = new Float64Array(count * 3)
    this.u = new Float64Array(count * 3)
    this.scale = new Float64Array(count)
    this.joined = new Float64Array(matrix.weights.length)
  }

  /** @returns how often it passed over the graph */
  solve(t: number, stopped?: () => boolean): number {
    const work = this.solving(t)
    for (;;) {
      const step = work.next(stopped?.() ?? false)
      if (step.done) return step.value
    }
  }
  /** The same pass by pass. It ends with what there is once it is told to. */
  *solving(t: number): Generator<void, number, boolean | undefined> {
    this.prepare(t)
    const begun = this.begin(t)
    let { rr } = begun
    const goal = begun.norm * this.precision * this.precision
    let share: Triple = [0, 0, 0]
    let step = 1
    for (; sum(rr) > goal && step < MOST_STEPS; step++) {
      if (yield) break
      this.turn(share)
      const next = this.descend(ratios(rr, this.multiply()))
      share = ratios(next, rr)
      rr = next
    }
    const { d, x, scale } = this
    for (let q = 0; q < d.length; q++) d[q] = x[q]! * scale[Math.floor(q / 3)]!
    return step
  }

  /** Scales A for t, and what is known of d with it. */
  private prepare(t: number): void {
    const { d, x, scale, joined } = this
    const { starts, neighbors, weights, diagonal, mass } = this.matrix
    for (let i = 0; i < scale.length; i++) scale[i] = 1 / Math.sqrt(Math.max(mass[i]! + t * diagonal[i]!, 1e-300))
    for (let i = 0; i < scale.length; i++)
      for (let k = starts[i]!; k < starts[i + 1]!; k++) joined[k] = t * weights[k]! * scale[i]! * scale[neighbors[k]!]!
    for (let q = 0; q < d.length; q++) x[q] = d[q]! / scale[Math.floor(q / 3)]!
  }

  /**
   * r = (I − C)⁻¹ (b − Ax) for the scaled right side b.
   * @returns the products r · r, and the norm of (I − C)⁻¹ b that goes with them
   */
  private begin(t: number): { rr: Triple; norm: number } {
    const { x, r, w, scale, middles, joined, positions } = this
    const { starts, neighbors, weights, diagonal } = this.matrix
    const rr: Triple = [0, 0, 0]
    let norm = 0
    for (let i = 0; i < scale.length; i++) {
      for (let c = 0; c < 3; c++) {
        const q = i * 3 + c
        let b = -diagonal[i]! * positions[q]!
        let made = x[q]!
        for (let k = starts[i]!; k < starts[i + 1]!; k++) {
          const j = neighbors[k]! * 3 + c
          b += weights[k]! * positions[j]!
          made -= joined[k]! * x[j]!
        }
        let whole = t * scale[i]! * b
        let left = whole - made
        for (let k = starts[i]!; k < middles[i]!; k++) {
          const j = neighbors[k]! * 3 + c
          whole += joined[k]! * w[j]!
          left += joined[k]! * r[j]!
        }
        w[q] = whole
        r[q] = left
        norm += whole * whole
        rr[c]! += left * left
      }
    }
    return { rr, norm }
  }

  /** The next direction: r, and some of the last one; and w of it, from the last vertex to the first. */
  private turn([b0, b1, b2]: Triple): void {
    const { r, p, w, middles, joined } = this
    const { starts, neighbors } = this.matrix
    for (let i = middles.length - 1, q = i * 3; i >= 0; i--, q -= 3) {
      let x = r[q]! + b0 * p[q]!
      let y = r[q + 1]! + b1 * p[q + 1]!
      let z = r[q + 2]! + b2 * p[q + 2]!
      p[q] = x
      p[q + 1] = y
      p[q + 2] = z
      for (let k = middles[i]!, end = starts[i + 1]!; k < end; k++) {
        const c = joined[k]!
        const j = neighbors[k]! * 3
        x += c * w[j]!
        y += c * w[j + 1]!
        z += c * w[j + 2]!
      }
      w[q] = x
      w[q + 1] = y
      w[q + 2] = z
    }
  }

  /**
   * u = (I − C)⁻¹ (p − w), from the first vertex to the last.
   * @returns the products of p with what A makes of it, w + u
   */
  private multiply(): Triple {
    const { p, w, u, middles, joined } = this
    const { starts, neighbors } = this.matrix
    let s0 = 0
    let s1 = 0
    let s2 = 0
    for (let i = 0, q = 0; i < middles.length; i++, q += 3) {
      let x = p[q]! - w[q]!
      let y = p[q + 1]! - w[q + 1]!
      let z = p[q + 2]! - w[q + 2]!
      for (let k = starts[i]!, end = middles[i]!; k < end; k++) {
        const c = joined[k]!
        const j = neighbors[k]! * 3
        x += c * u[j]!
        y += c * u[j + 1]!
        z += c * u[j + 2]!
      }
      u[q] = x
      u[q + 1] = y
      u[q + 2] = z
      s0 += p[q]! * (w[q]! + x)
      s1 += p[q + 1]! * (w[q + 1]! + y)
      s2 += p[q + 2]! * (w[q + 2]! + z)
    }
    return [s0, s1, s2]
  }

  /**
   * A step along p, which is w of the unknowns.
   * @returns the products of what is left with itself
   */
  private descend([a0, a1, a2]: Triple): Triple {
    const { x, r, w, u } = this
    let n0 = 0
    let n1 = 0
    let n2 = 0
    for (let q = 0; q < x.length; q += 3) {
      x[q]! += a0 * w[q]!
      x[q + 1]! += a1 * w[q + 1]!
      x[q + 2]! += a2 * w[q + 2]!
      const rx = r[q]! - a0 * (w[q]! + u[q]!)
      const ry = r[q + 1]! - a1 * (w[q + 1]! + u[q + 1]!)
      const rz = r[q + 2]! - a2 * (w[q + 2]! + u[q + 2]!)
      r[q] = rx
      r[q + 1] = ry
      r[q + 2] = rz
      n0 += rx * rx
      n1 += ry * ry
      n2 += rz * rz
    }
    return [n0, n1, n2]
  }
}

/** What is less is nothing: far from every edge numbers become small without end. */
const LEAST = 1e-6

/**
 * How sharply each vertex of the mesh is bent outward (`sign` 1) or inward (−1) at the size of a radius in meters, from
 * 0 to 1: what {@link standOut} finds, clamped.
 * @returns a number for each vertex of the mesh, not of the welded surface; undefined where it was stopped
 */
export function bent(
  geometry: {
    surface: Surface
    standingOut: (
      radius: number,
      progress?: (share: number) => void,
      stopped?: () => boolean,
    ) => Float32Array | undefined
  },
  radius: number,
  sign: 1 | -1,
  progress?: (share: number) => void,
  stopped?: () => boolean,
): Float32Array | undefined {
  const values = geometry.standingOut(radius, progress, stopped)
  return (
    values &&
    spreadOut(
      geometry.surface,
      values.map(x => (sign * x > LEAST ? Math.min(1, sign * x) : 0)),
    )
  )
}
