import type { Mesh } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'
import { pointSet, type SurfacePoints } from '../mesh/sample'

/**
 * A fixed small view of the mesh: the surface point seen in each pixel, and how bright a plain white surface is there.
 */
export interface SmallView {
  width: number
  height: number
  /** Pixel of every point, row by row from the top. */
  pixel: Uint32Array
  points: SurfacePoints
  shade: Float32Array
}

const RIGHT = [0.82, 0, -0.57]
const UP = [-0.19, 0.94, -0.28]
const TOWARD = [0.54, 0.34, 0.77]
/** How many parts of the usual size are as high as a view. */
const PARTS_HIGH = 5
/** The share of a view that a whole mesh fills, in one direction. */
const FILLED = 0.92
/** Pixels from end to end of the whole mesh, where the fullest place in it is looked for. */
const SEARCH = 96
/** How many of the triangles are looked at for it at most. */
const SEARCHED = 100_000
/** The share by which surface counts less in a view that is as far from the middle as the mesh is long. */
const LOST = 0.5

/** Where the vertices of a mesh are seen without perspective: rightward, upward and toward who looks, in meters. */
interface Flat {
  x: Float32Array
  y: Float32Array
  z: Float32Array
}

function flattened({ positions: p }: Mesh): Flat {
  const count = p.length / 3
  const along = ([a, b, c]: number[]): Float32Array => {
    const out = new Float32Array(count)
    for (let v = 0; v < count; v++) out[v] = a! * p[v * 3]! + b! * p[v * 3 + 1]! + c! * p[v * 3 + 2]!
    return out
  }
  return { x: along(RIGHT), y: along(UP), z: along(TOWARD) }
}

/** A picture of a flattened mesh: its middle, and pixels to a meter. */
interface Frame {
  x: number
  y: number
  scale: number
  width: number
  height: number
}

/**
 * The triangle seen in each pixel, or -1, and where in it; row by row from the top.
 * @param step looks at one of so many triangles
 */
function seenIn({ indices }: Mesh, flat: Flat, { x: midX, y: midY, scale, width, height }: Frame, step = 1) {
  const depth = new Float32Array(width * height).fill(-Infinity)
  const owner = new Int32Array(width * height).fill(-1)
  const us = new Float32Array(width * height)
  const vs = new Float32Array(width * height)
  const [left0, top0] = [width / 2 - midX * scale, height / 2 + midY * scale]
  const { x: fx, y: fy, z: fz } = flat
  for (let t = 0; t < indices.length / 3; t += step) {
    const a = indices[t * 3]!
    const b = indices[t * 3 + 1]!
    const c = indices[t * 3 + 2]!
    const [ax, ay] = [left0 + fx[a]! * scale, top0 - fy[a]! * scale]
    const [bx, by] = [left0 + fx[b]! * scale, top0 - fy[b]! * scale]
    const [cx, cy] = [left0 + fx[c]! * scale, top0 - fy[c]! * scale]
    const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
    if (area === 0) continue
    const top = Math.max(0, Math.ceil(Math.min(ay, by, cy) - 0.5))
    const bottom = Math.min(height - 1, Math.floor(Math.max(ay, by, cy) - 0.5))
    const left = Math.max(0, Math.ceil(Math.min(ax, bx, cx) - 0.5))
    const end = Math.min(width - 1, Math.floor(Math.max(ax, bx, cx) - 0.5))
    for (let y = top; y <= bottom; y++) {
      for (let x = left; x <= end; x++) {
        const px = x + 0.5 - ax
        const py = y + 0.5 - ay
        const u = (px * (cy - ay) - (cx - ax) * py) / area
        const v = ((bx - ax) * py - px * (by - ay)) / area
        if (u < 0 || v < 0 || u + v > 1) continue
        const z = fz[a]! + u * (fz[b]! - fz[a]!) + v * (fz[c]! - fz[a]!)
        const at = y * width + x
        if (z <= depth[at]!) continue
        depth[at] = z
        owner[at] = t
        us[at] = u
        vs[at] = v
      }
    }
  }
  return { owner, us, vs }
}

/** The size of the part on which the middle of all surface lies, when parts are sorted by their size. */
function usualSize({ parts }: Parts): number | undefined {
  const sizes = Float64Array.from(parts, ({ size: [x, y, z] }) => Math.sqrt(x * x + y * y + z * z))
  const sorted = Uint32Array.from(parts, (_, i) => i).sort((a, b) => sizes[a]! - sizes[b]!)
  let left = parts.reduce((sum, { area }) => sum + area, 0) / 2
  const found = sorted.find(i => (left -= parts[i]!.area) <= 0)
  return found === undefined ? undefined : sizes[found]
}

/**
 * The middle of the view in which most surface is seen, and of such views the nearest to a middle: a mesh may be hollow
 * there.
 * @param long how long the whole mesh is seen, in meters
 * @param wide of a view, in meters
 * @param high of a view, in meters
 */
function fullest(mesh: Mesh, flat: Flat, middle: Pick<Frame, 'x' | 'y'>, long: number, wide: number, high: number) {
  const scale = SEARCH / long
  const step = Math.ceil(mesh.indices.length / 3 / SEARCHED)
  const { owner } = seenIn(mesh, flat, { ...middle, scale, width: SEARCH, height: SEARCH }, step)
  // Sums of all pixels above and left of each: those of a view are four of them.
  const side = SEARCH + 1
  const sums = new Float64Array(side * side)
  for (let y = 1; y < side; y++)
    for (let x = 1; x < side; x++)
      sums[y * side + x] =
        sums[(y - 1) * side + x]! +
        sums[y * side + x - 1]! -
        sums[(y - 1) * side + x - 1]! +
        (owner[(y - 1) * SEARCH + x - 1]! < 0 ? 0 : 1)
  const [halfX, halfY] = [Math.max(1, Math.round((wide * scale) / 2)), Math.max(1, Math.round((high * scale) / 2))]
  const within = (i: number): number => Math.max(0, Math.min(SEARCH, i))
  let best = 0
  let found = { ...middle }
  for (let y = 0; y < SEARCH; y++) {
    for (let x = 0; x < SEARCH; x++) {
      const [left, right, top, bottom] = [x - halfX, x + halfX, y - halfY, y + halfY].map(within) as number[]
      const inside = (a: number, b: number): number => sums[a * side + b]!
      const filled = inside(bottom!, right!) - inside(top!, right!) - inside(bottom!, left!) + inside(top!, left!)
      const away = Math.hypot(x - SEARCH / 2, y - SEARCH / 2) / SEARCH
      const score = filled * (1 - LOST * away)
      if (score <= best) continue
      best = score
      found = { x: middle.x + (x - SEARCH / 2) / scale, y: middle.y - (y - SEARCH / 2) / scale }
    }
  }
  return found
}

/** The lowest and the highest of what triangles use of some numbers of vertices. */
function reach(indices: Uint32Array, of: Float32Array): { middle: number; length: number } {
  let low = Infinity
  let high = -Infinity
  for (let i = 0; i < indices.length; i++) {
    const x = of[indices[i]!]!
    if (x < low) low = x
    if (x > high) high = x
  }
  return low <= high ? { middle: (low + high) / 2, length: high - low } : { middle: 0, length: 0 }
}

/**
 * Looks at the mesh from the front, right and above, without perspective, close enough that single parts can be told
 * apart: the view is about five parts of the usual size high, where most of the surface is seen, or shows the whole
 * mesh where that is less.
 */
export function smallView(mesh: Mesh, parts: Parts, width: number, height: number): SmallView {
  const flat = flattened(mesh)
  const [across, up] = [reach(mesh.indices, flat.x), reach(mesh.indices, flat.y)]
  const whole = Math.max(up.length, (across.length * height) / width) / FILLED || 1
  const high = Math.min(whole, (usualSize(parts) || whole) * PARTS_HIGH)
  const middle = { x: across.middle, y: up.middle }
  const long = Math.max(up.length, across.length)
  const at = high < whole ? fullest(mesh, flat, middle, long, (high * width) / height, high) : middle
  const { owner, us, vs } = seenIn(mesh, flat, { ...at, scale: height / high, width, height })
  const seen = [...owner.keys()].filter(i => owner[i]! >= 0)
  const points = pointSet(seen.length)
  const shade = new Float32Array(seen.length)
  seen.forEach((at, i) => {
    const t = owner[at]!
    points.triangle[i] = t
    points.u[i] = us[at]!
    points.v[i] = vs[at]!
    const n = [0, 1, 2].map(k => {
      const corner = (c: number) => mesh.normals[mesh.indices[t * 3 + c]! * 3 + k]!
      return corner(0) * (1 - us[at]! - vs[at]!) + corner(1) * us[at]! + corner(2) * vs[at]!
    })
    const facing = (n[0]! * 0.35 + n[1]! * 0.75 + n[2]! * 0.55) / (Math.hypot(...n) || 1)
    shade[i] = 0.55 + 0.45 * Math.max(0, facing)
  })
  return { width, height, pixel: Uint32Array.from(seen), points, shade }
}
