import type { Box, Mesh } from '../mesh/mesh'
import { GROUND, SEEN_WORDS } from './visible'

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

const bits = new Uint32Array(1)
const number = new Float32Array(bits.buffer)
const wordOf = (x: number): number => {
  number[0] = x
  return bits[0]!
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
  const { clip: m, view, near, width, height } = sight
  const { positions, indices } = mesh
  const count = positions.length / 3
  const seen = new Uint32Array(width * rows * SEEN_WORDS)
  const depths = new Float64Array(width * rows).fill(Infinity)
  const nearest = before && new Float32Array(before.buffer, before.byteOffset, before.length)
  // (1) Vertices in homogeneous pixels: x, y, w, and the depth.
  const xs = new Float64Array(count)
  const ys = new Float64Array(count)
  const ws = new Float64Array(count)
  const zs = new Float64Array(count)
  for (let v = 0; v < count; v++) {
    const x = positions[v * 3]!
    const y = positions[v * 3 + 1]!
    const z = positions[v * 3 + 2]!
    const w = m[3]! * x + m[7]! * y + m[11]! * z + m[15]!
    xs[v] = (m[0]! * x + m[4]! * y + m[8]! * z + m[12]! + w) * 0.5 * width
    ys[v] = (m[1]! * x + m[5]! * y + m[9]! * z + m[13]! + w) * 0.5 * height
    ws[v] = w
    zs[v] = -(view[2]! * x + view[6]! * y + view[10]! * z + view[14]!)
  }
  const last = first + rows
  for (let t = 0; t < indices.length / 3; t++) {
    const a = indices[t * 3]!
    const b = indices[t * 3 + 1]!
    const c = indices[t * 3 + 2]!
    const aw = ws[a]!
    const bw = ws[b]!
    const cw = ws[c]!
    // (2) The pixels whose middles it may cover.
    let left = 0
    let right = width - 1
    let low = first
    let high = last - 1
    if (aw > 1e-9 && bw > 1e-9 && cw > 1e-9) {
      const ay = ys[a]! / aw
      const by = ys[b]! / bw
      const cy = ys[c]! / cw
      low = Math.max(first, Math.ceil(Math.min(ay, by, cy) - 0.5))
      high = Math.min(last - 1, Math.floor(Math.max(ay, by, cy) - 0.5))
      if (low > high) continue
      const ax = xs[a]! / aw
      const bx = xs[b]! / bw
      const cx = xs[c]! / cw
      left = Math.max(0, Math.ceil(Math.min(ax, bx, cx) - 0.5))
      right = Math.min(width - 1, Math.floor(Math.max(ax, bx, cx) - 0.5))
      if (left > right) continue
    } else if (aw <= 1e-9 && bw <= 1e-9 && cw <= 1e-9) continue
    if (hidden?.[partOfTriangle[t]!]) continue
    // (3) The three edges: each is the share of a corner, over w, as a function of the pixel.
    const ax = xs[a]!
    const ay = ys[a]!
    const bx = xs[b]!
    const by = ys[b]!
    const cx = xs[c]!
    const cy = ys[c]!
    const a0 = by * cw - cy * bw
    const b0 = cx * bw - bx * cw
    const c0 = bx * cy - cx * by
    const det = ax * a0 + ay * b0 + aw * c0
    if (det === 0) continue
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
    for (let y = low; y <= high; y++) {
      const py = y + 0.5
      const row = (y - first) * width
      for (let x = left; x <= right; x++) {
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
        const depth = az + (bz - az) * u + (cz - az) * v
        const at = row + x
        if (depth < near || depth >= depths[at]!) continue
        if (nearest) {
          const word = before![at * SEEN_WORDS]!
          if (word === 0 || word === t + 1 || depth <= nearest[at * SEEN_WORDS + 3]!) continue
        }
        depths[at] = depth
        seen[at * SEEN_WORDS] = t + 1
        seen[at * SEEN_WORDS + 1] = wordOf(u)
        seen[at * SEEN_WORDS + 2] = wordOf(v)
        seen[at * SEEN_WORDS + 3] = wordOf(depth)
      }
    }
  }
  if (sight.ground) drawGround(seen, depths, sight, sight.ground, first, rows, before)
  return seen
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
  const nearest = before && new Float32Array(before.buffer, before.byteOffset, before.length)
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
      seen[at * SEEN_WORDS + 3] = wordOf(depth)
    }
  }
}
