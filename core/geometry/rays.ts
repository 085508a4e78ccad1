import { RayKernels } from '../kernels/rays'
import { boundsOf } from '../mesh/mesh'
import { RayTree } from './rayTree'
import type { Round } from './round'

/** Triangles that rays can meet: all of them, or those of one part. Trees are built when they are first asked for. */
export class RayScene {
  private whole?: RayTree
  private readonly own = new Map<number, RayTree>()
  /** Of all parts: a memory for each of thousands would be far more than they need. */
  private readonly kernels = new RayKernels()
  private starts?: Uint32Array
  private sorted?: Uint32Array
  /** How far off the surface rays begin, in meters. */
  readonly lift: number

  /**
   * @param positions x, y, z per vertex
   * @param triangles three vertices each
   * @param partOf the part of every triangle
   */
  constructor(
    private readonly positions: Float32Array,
    private readonly triangles: Uint32Array,
    private readonly partOf: Uint32Array,
    private readonly parts: number,
  ) {
    const { min, max } = boundsOf(positions)
    this.lift = LIFT * Math.hypot(...max.map((x, k) => x - min[k]!))
  }

  private build(triangles: Uint32Array): RayTree {
    return new RayTree(this.positions, triangles, { kernels: this.kernels })
  }

  all(): RayTree {
    // A copy: building sorts it.
    return (this.whole ??= this.build(this.triangles.slice()))
  }

  part(n: number): RayTree | undefined {
    const known = this.own.get(n)
    if (known) return known
    if (!this.starts || !this.sorted) {
      this.starts = new Uint32Array(this.parts + 1)
      for (const p of this.partOf) this.starts[p + 1]!++
      for (let i = 0; i < this.parts; i++) this.starts[i + 1]! += this.starts[i]!
      const next = this.starts.slice()
      this.sorted = new Uint32Array(this.partOf.length)
      for (let t = 0; t < this.partOf.length; t++) this.sorted[next[this.partOf[t]!]!++] = t
    }
    const own = this.sorted.subarray(this.starts[n], this.starts[n + 1])
    const list = new Uint32Array(own.length * 3)
    if (!own.length) return undefined
    own.forEach((t, i) => list.set(this.triangles.subarray(t * 3, t * 3 + 3), i * 3))
    const tree = this.build(list)
    this.own.set(n, tree)
    return tree
  }
}

/** Where rays start. Three numbers per point in `positions` and `normals`; unit normals. */
export interface RayPoints {
  positions: Float64Array
  normals: Float64Array
  part: Uint32Array
}

export interface OcclusionOptions {
  distance: number
  among: 'all' | 'part'
}
export interface ThicknessOptions {
  distance: number
}

/**
 * The plastic number's powers (Roberts' R2 sequence), and offsets from a hash, so that neighbors do not share a
 * pattern.
 */
const R2X = 0.7548776662466927
const R2Y = 0.5698402909980532
const scatter = (i: number, salt: number): number => {
  let h = Math.imul(i + 1, 0x9e3779b1) ^ salt
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b)
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35)
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296
}

/** Rays `first` to `last` of the sequence before any point's own offset: heights, and directions around the normal. */
function sequence(first: number, last: number): { heights: Float64Array; cosines: Float64Array; sines: Float64Array } {
  const count = last - first
  const heights = new Float64Array(count)
  const cosines = new Float64Array(count)
  const sines = new Float64Array(count)
  for (let i = 0; i < count; i++) {
    const angle = (((first + i) * R2Y) % 1) * 2 * Math.PI
    heights[i] = ((first + i) * R2X) % 1
    cosines[i] = Math.cos(angle)
    sines[i] = Math.sin(angle)
  }
  return { heights, cosines, sines }
}

/**
 * How far off the surface rays begin, as a share of the mesh's diagonal: enough to leave the triangle they start on.
 */
const LIFT = 1e-5

/**
 * Casts rays number `first` to `last` (of one low-discrepancy sequence, so more may follow) from points `from` to `to`,
 * and adds to each point's sum. Directions have a density of cos θ around the normal, so sum / rays is the blocked
 * share of the irradiance from an even sky.
 */
export function castOcclusion(
  scene: RayScene,
  points: RayPoints,
  { distance, among }: OcclusionOptions,
  { from, to, first, last }: Round,
  sums: Float32Array,
): void {
  const { positions, normals } = points
  const whole = among === 'all' ? scene.all() : undefined
  const lift = scene.lift
  const { heights, cosines, sines } = sequence(first, last)
  const count = last - first
  for (let i = from; i < to; i++) {
    const tree = whole ?? scene.part(points.part[i]!)
    if (!tree) continue
    const q = i * 3
    const nx = normals[q]!
    const ny = normals[q + 1]!
    const nz = normals[q + 2]!
    // A frame around the normal (Duff et al. 2017).
    const sign = nz < 0 ? -1 : 1
    const a = -1 / (sign + nz)
    const b = nx * ny * a
    const ou = scatter(i, 0x51ed27)
    const turn = scatter(i, 0x2c1b3c) * 2 * Math.PI
    const c = Math.cos(turn)
    const d = Math.sin(turn)
    // The point's own turn goes into the frame, once for all its rays.
    const ex = 1 + sign * nx * nx * a
    const ey = sign * b
    const ez = -sign * nx
    const fx = b
    const fy = sign + ny * ny * a
    const fz = -ny
    const tx = c * ex + d * fx
    const ty = c * ey + d * fy
    const tz = c * ez + d * fz
    const sx = c * fx - d * ex
    const sy = c * fy - d * ey
    const sz = c * fz - d * ez
    const px = positions[q]! + nx * lift
    const py = positions[q + 1]! + ny * lift
    const pz = positions[q + 2]! + nz * lift
    let hits = 0
    for (let k = 0; k < count; k++) {
      const sum = ou + heights[k]!
      const u = sum < 1 ? sum : sum - 1
      const sine = Math.sqrt(u)
      const up = Math.sqrt(1 - u)
      const x = sine * cosines[k]!
      const y = sine * sines[k]!
      const dx = tx * x + sx * y + nx * up
      const dy = ty * x + sy * y + ny * up
      const dz = tz * x + sz * y + nz * up
      if (tree.meets(px, py, pz, dx, dy, dz, distance)) hits++
    }
    sums[i]! += hits
  }
}

/** Rays for thickness stay within this angle of the way straight in. */
const CONE = (35 * Math.PI) / 180

/**
 * As `castOcclusion`, inward and within a cone: adds the depth of where each ray leaves the point's own part, measured
 * along the normal, as a share of `distance`; a ray that does not leave within it adds 1. A slab's thickness comes out
 * exactly.
 */
export function castThickness(
  scene: RayScene,
  points: RayPoints,
  { distance }: ThicknessOptions,
  { from, to, first, last }: Round,
  sums: Float32Array,
): void {
  const { positions, normals } = points
  const lift = scene.lift
  const most = 1 - Math.cos(CONE)
  for (let i = from; i < to; i++) {
    const tree = scene.part(points.part[i]!)
    const q = i * 3
    const nx = -normals[q]!
    const ny = -normals[q + 1]!
    const nz = -normals[q + 2]!
    if (!tree) continue
    const sign = nz < 0 ? -1 : 1
    const a = -1 / (sign + nz)
    const b = nx * ny * a
    const tx = 1 + sign * nx * nx * a
    const ty = sign * b
    const tz = -sign * nx
    const sx = b
    const sy = sign + ny * ny * a
    const sz = -ny
    const ou = scatter(i, 0x51ed27)
    const ov = scatter(i, 0x2c1b3c)
    const px = positions[q]! + nx * lift
    const py = positions[q + 1]! + ny * lift
    const pz = positions[q + 2]! + nz * lift
    let sum = 0
    for (let k = first; k < last; k++) {
      const up = 1 - most * ((ou + k * R2X) % 1)
      const sine = Math.sqrt(1 - up * up)
      const angle = ((ov + k * R2Y) % 1) * 2 * Math.PI
      const x = sine * Math.cos(angle)
      const y = sine * Math.sin(angle)
      const dx = tx * x + sx * y + nx * up
      const dy = ty * x + sy * y + ny * up
      const dz = tz * x + sz * y + nz * up
      const isMet = tree.first(px, py, pz, dx, dy, dz, distance / up) >= 0
      sum += isMet ? Math.min(1, (tree.distance * up + lift) / distance) : 1
    }
    sums[i]! += sum
  }
}

/**
 * The way from each point to the nearest other part, as a share of `distance`; 1 where none is that near.
 * @param boxes min and max of every part, six numbers each
 */
export function contactDistance(
  scene: RayScene,
  points: RayPoints,
  boxes: Float64Array,
  from: number,
  to: number,
  distance: number,
  out: Float32Array,
): void {
  const { positions, part } = points
  const near = new Map<number, number[]>()
  const parts = boxes.length / 6
  const around = (n: number): number[] => {
    let list = near.get(n)
    if (!list) {
      list = []
      for (let m = 0; m < parts; m++) {
        if (
          m !== n &&
          [0, 1, 2].every(
            k =>
              boxes[m * 6 + k]! <= boxes[n * 6 + 3 + k]! + distance &&
              boxes[n * 6 + k]! <= boxes[m * 6 + 3 + k]! + distance,
          )
        )
          list.push(m)
      }
      near.set(n, list)
    }
    return list
  }
  for (let i = from; i < to; i++) {
    let best = distance
    for (const m of around(part[i]!)) {
      let square = 0
      for (let k = 0; k < 3; k++) {
        const x = positions[i * 3 + k]!
        const gap = Math.max(boxes[m * 6 + k]! - x, x - boxes[m * 6 + 3 + k]!, 0)
        square += gap * gap
      }
      if (square >= best * best) continue
      const tree = scene.part(m)
      const isNear = tree && tree.nearest(positions[i * 3]!, positions[i * 3 + 1]!, positions[i * 3 + 2]!, best) >= 0
      if (isNear) best = tree.distance
    }
    out[i] = best / distance
  }
}
