import type { Box, Mesh } from '../mesh/mesh'
import { floatsIn, GROUND, SEEN_WORDS } from './visible'

/** From where a mesh is seen, and through which pixels. Matrices are 4 by 4, column by column. */
export interface Sightline {
  /** From the world to clip space, in which a picture goes from -1 to 1. */
  clip: readonly number[]
  /** Back from there. */
  world: readonly number[]
  /** From the world to the camera, which looks along its negative z axis. */
  view: readonly number[]
  /** Nothing nearer than this, in meters along the axis, is seen. */
  near: number
  width: number
  height: number
  /** Height of a ground, where there is one, with its middle and how far it reaches. */
  ground?: { y: number; x: number; z: number; reach: number }
}

/**
 * Where the ground lies under a mesh, and how far it reaches from its middle: just below what stands on it, and so far
 * that no shadow runs off it.
 */
export function groundUnder({ min, max }: Box): { y: number; x: number; z: number; reach: number } {
  const diagonal = Math.hypot(...max.map((x, k) => x - min[k]!))
  return { y: min[1] - diagonal * 1e-4, x: (min[0] + max[0]) / 2, z: (min[2] + max[2]) / 2, reach: diagonal * 3 }
}

/** Rows of a picture, from below. */
export interface RowRange {
  first: number
  rows: number
}

/**
 * What is seen at the pixels of some rows: the surface pass on the processor. Triangles are drawn from both sides, in
 * homogeneous coordinates, so that none has to be clipped (Olano and Greer, "Triangle Scan Conversion Using 2D
 * Homogeneous Coordinates", 1997).
 * @param hidden for each part whether it is left out
 * @param before what is seen in front: then what is seen behind it
 * @returns the words of `SEEN_WORDS`, row by row
 */
export function rasterize(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  partOfTriangle: ArrayLike<number>,
  sight: Sightline,
  { first, rows }: RowRange,
  hidden?: Uint8Array,
  before?: Uint32Array,
): Uint32Array {
  const seen = new Uint32Array(sight.width * rows * SEEN_WORDS)
  const raster = new Raster(mesh.positions, sight, { first, rows }, seen, before)
  raster.drawAll(mesh.indices, partOfTriangle, hidden)
  if (sight.ground) drawGround(seen, raster.depths, sight, sight.ground, first, rows, before)
  return seen
}

/**
 * How far away the nearest surface is at the pixels of some rows, in meters along the axis; 0 where there is none: the
 * last of the words that `rasterize` finds.
 * @param hidden for each part whether it is left out
 */
export function depthsSeen(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  partOfTriangle: ArrayLike<number>,
  sight: Sightline,
  range: RowRange,
  hidden?: Uint8Array,
): Float32Array<ArrayBuffer> {
  const raster = new Raster(mesh.positions, sight, range)
  raster.drawAll(mesh.indices, partOfTriangle, hidden)
  const { depths } = raster
  const found = new Float32Array(depths.length)
  for (let i = 0; i < depths.length; i++) found[i] = depths[i] === Infinity ? 0 : depths[i]!
  return found
}

/** A w at or below this lies in or behind the plane of the camera. */
const BEHIND = 1e-9

/** Pixels from which on it pays to find where a triangle lies in each row. */
const WIDE = 6
/**
 * An edge may be so many times as high as it rises in a pixel, and where it ends is still known to a small part of one:
 * 64-bit floats have 16 digits.
 */
const SURE = 1e9

/** Draws triangles into some rows of a picture, each pixel keeping the nearest. */
class Raster {
  readonly depths: Float64Array
  /** The words of what is seen as numbers, where they are wanted. */
  private readonly numbers: Float32Array | undefined
  /** Vertices in homogeneous pixels: x, y, w, and the depth. */
  private readonly xs: Float64Array
  private readonly ys: Float64Array
  private readonly ws: Float64Array
  private readonly zs: Float64Array
  /** And in pixels, where they are in front of the camera. */
  private readonly across: Float64Array
  private readonly up: Float64Array
  private readonly last: number
  private readonly nearest: Float32Array | undefined
  /** The pixels whose middles a triangle may cover, both ends among them. */
  private left = 0
  private right = 0
  private low = 0
  private high = 0
  /** The pixels of a row that are asked, both ends among them. */
  private from = 0
  private to = 0

  constructor(
    positions: Float32Array,
    private readonly sight: Sightline,
    private readonly range: RowRange,
    private readonly seen?: Uint32Array,
    private readonly before?: Uint32Array,
  ) {
    const { clip: m, view, width, height } = sight
    const count = positions.length / 3
    this.numbers = seen && floatsIn(seen)
    this.depths = new Float64Array(width * range.rows).fill(Infinity)
    this.nearest = before && floatsIn(before)
    this.last = range.first + range.rows - 1
    this.xs = new Float64Array(count)
    this.ys = new Float64Array(count)
    this.ws = new Float64Array(count)
    this.zs = new Float64Array(count)
    this.across = new Float64Array(count)
    this.up = new Float64Array(count)
    for (let v = 0; v < count; v++) {
      const x = positions[v * 3]!
      const y = positions[v * 3 + 1]!
      const z = positions[v * 3 + 2]!
      const w = m[3]! * x + m[7]! * y + m[11]! * z + m[15]!
      this.xs[v] = (m[0]! * x + m[4]! * y + m[8]! * z + m[12]! + w) * 0.5 * width
      this.ys[v] = (m[1]! * x + m[5]! * y + m[9]! * z + m[13]! + w) * 0.5 * height
      this.ws[v] = w
      this.zs[v] = -(view[2]! * x + view[6]! * y + view[10]! * z + view[14]!)
      this.across[v] = this.xs[v]! / w
      this.up[v] = this.ys[v]! / w
    }
  }

  /** All triangles, but for those of parts that are left out. */
  drawAll(indices: ArrayLike<number>, partOfTriangle: ArrayLike<number>, hidden?: Uint8Array): void {
    for (let t = 0; t < indices.length / 3; t++) {
      if (hidden?.[partOfTriangle[t]!]) continue
      const a = indices[t * 3]!
      const b = indices[t * 3 + 1]!
      const c = indices[t * 3 + 2]!
      if (this.bound(a, b, c)) this.fill(t, a, b, c)
    }
  }

  /** Finds the pixels that a triangle may cover; tells whether there are any. */
  private bound(a: number, b: number, c: number): boolean {
    const { across, up, ws, sight, range, last } = this
    const aw = ws[a]!
    const bw = ws[b]!
    const cw = ws[c]!
    if (aw > BEHIND && bw > BEHIND && cw > BEHIND) {
      const ay = up[a]!
      const by = up[b]!
      const cy = up[c]!
      this.low = Math.max(range.first, Math.ceil(Math.min(ay, by, cy) - 0.5))
      this.high = Math.min(last, Math.floor(Math.max(ay, by, cy) - 0.5))
      if (this.low > this.high) return false
      const ax = across[a]!
      const bx = across[b]!
      const cx = across[c]!
      this.left = Math.max(0, Math.ceil(Math.min(ax, bx, cx) - 0.5))
      this.right = Math.min(sight.width - 1, Math.floor(Math.max(ax, bx, cx) - 0.5))
      return this.left <= this.right
    }
    this.left = 0
    this.right = sight.width - 1
    this.low = range.first
    this.high = last
    return aw > BEHIND || bw > BEHIND || cw > BEHIND
  }

  private fill(t: number, a: number, b: number, c: number): void {
    const { xs, ys, ws, zs, left, right, low, high, range } = this
    const { width } = this.sight
    // The three edges: each is the share of a corner, over w, as a function of the pixel.
    const ax = xs[a]!
    const ay = ys[a]!
    const aw = ws[a]!
    const bx = xs[b]!
    const by = ys[b]!
    const bw = ws[b]!
    const cx = xs[c]!
    const cy = ys[c]!
    const cw = ws[c]!
    const a0 = by * cw - cy * bw
    const b0 = cx * bw - bx * cw
    const c0 = bx * cy - cx * by
    const det = ax * a0 + ay * b0 + aw * c0
    if (det === 0) return
    const inverse = 1 / det
    const a1 = cy * aw - ay * cw
    const b1 = ax * cw - cx * aw
    const c1 = cx * ay - ax * cy
    const a2 = ay * bw - by * aw
    const b2 = bx * aw - ax * bw
    const c2 = ax * by - bx * ay
    const az = zs[a]!
    const bz = zs[b]!
    const cz = zs[c]!
    const isWide = right - left >= WIDE
    for (let y = low; y <= high; y++) {
      const py = y + 0.5
      const row = (y - range.first) * width
      this.from = left
      this.to = right
      if (isWide) {
        this.narrow(a0 * inverse, b0 * py * inverse, c0 * inverse)
        this.narrow(a1 * inverse, b1 * py * inverse, c1 * inverse)
        this.narrow(a2 * inverse, b2 * py * inverse, c2 * inverse)
      }
      const { from, to } = this
      for (let x = from; x <= to; x++) {
        const px = x + 0.5
        const e0 = (a0 * px + b0 * py + c0) * inverse
        if (e0 < 0) continue
        const e1 = (a1 * px + b1 * py + c1) * inverse
        if (e1 < 0) continue
        const e2 = (a2 * px + b2 * py + c2) * inverse
        if (e2 < 0) continue
        const sum = e0 + e1 + e2
        if (sum <= 0) continue
        const u = e1 / sum
        const v = e2 / sum
        this.put(row + x, t, u, v, az + (bz - az) * u + (cz - az) * v)
      }
    }
  }

  /**
   * Leaves out pixels of a row where an edge, `slope * x + along + rest`, is negative for certain: each is still asked.
   */
  private narrow(slope: number, along: number, rest: number): void {
    // An edge that hardly rises along the row says too little of where it ends.
    if (Math.abs(slope) * SURE < Math.abs(along) + Math.abs(rest)) return
    const end = -(along + rest) / slope - 0.5
    if (slope > 0) this.from = Math.max(this.from, Math.ceil(end) - 1)
    else this.to = Math.min(this.to, Math.floor(end) + 1)
  }

  /** What is seen at a pixel, unless something nearer is; behind what is seen in front, where that is given. */
  private put(at: number, t: number, u: number, v: number, depth: number): void {
    const { seen, numbers, depths, nearest, before } = this
    if (depth < this.sight.near || depth >= depths[at]!) return
    if (nearest) {
      const word = before![at * SEEN_WORDS]!
      if (word === 0 || word === t + 1 || depth <= nearest[at * SEEN_WORDS + 3]!) return
    }
    depths[at] = depth
    if (!seen || !numbers) return
    seen[at * SEEN_WORDS] = t + 1
    numbers[at * SEEN_WORDS + 1] = u
    numbers[at * SEEN_WORDS + 2] = v
    numbers[at * SEEN_WORDS + 3] = depth
  }
}

/** The ground, where it is nearer than what is there. It is seen from above only. */
function drawGround(
  seen: Uint32Array,
  depths: Float64Array,
  { world: m, view, near, width, height }: Sightline,
  ground: NonNullable<Sightline['ground']>,
  first: number,
  rows: number,
  before?: Uint32Array,
): void {
  const place = (x: number, y: number, z: number, k: number): number =>
    (m[k]! * x + m[4 + k]! * y + m[8 + k]! * z + m[12 + k]!) / (m[3]! * x + m[7]! * y + m[11]! * z + m[15]!)
  const numbers = floatsIn(seen)
  const nearest = before && floatsIn(before)
  for (let y = 0; y < rows; y++) {
    const py = ((first + y + 0.5) / height) * 2 - 1
    for (let x = 0; x < width; x++) {
      const px = ((x + 0.5) / width) * 2 - 1
      const from = place(px, py, -1, 1)
      const to = place(px, py, 1, 1)
      if (from <= ground.y || to >= from) continue
      const share = (from - ground.y) / (from - to)
      const gx = place(px, py, -1, 0) + (place(px, py, 1, 0) - place(px, py, -1, 0)) * share
      const gz = place(px, py, -1, 2) + (place(px, py, 1, 2) - place(px, py, -1, 2)) * share
      if (Math.abs(gx - ground.x) > ground.reach || Math.abs(gz - ground.z) > ground.reach) continue
      const depth = -(view[2]! * gx + view[6]! * ground.y + view[10]! * gz + view[14]!)
      const at = y * width + x
      if (depth < near || depth >= depths[at]!) continue
      if (
        nearest &&
        (before![at * SEEN_WORDS] === 0 ||
          before![at * SEEN_WORDS] === GROUND ||
          depth <= nearest[at * SEEN_WORDS + 3]!)
      )
        continue
      seen.fill(0, at * SEEN_WORDS, at * SEEN_WORDS + SEEN_WORDS)
      seen[at * SEEN_WORDS] = GROUND
      numbers[at * SEEN_WORDS + 3] = depth
    }
  }
}
