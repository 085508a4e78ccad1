import { RowNumbers } from '../core/mesh/growing'
import { triangleCross } from '../core/mesh/mesh'

/** A closed or open piece of surface, before it has its place in the UV square. `width` and `height` are meters. */
export interface Shape {
  positions: number[]
  normals: number[]
  /** 0..1 over the shape's own rectangle. */
  uvs: number[]
  indices: number[]
  width: number
  height: number
}

export type Point = [number, number, number]

/** A random generator that is the same everywhere: mulberry32. Returns numbers in [0, 1). */
export function random(seed: number): () => number {
  return () => {
    seed = (seed + 0x6d2b79f5) | 0
    let t = Math.imul(seed ^ (seed >>> 15), 1 | seed)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}

interface GridOptions {
  /** The last column meets the first: the seam is split in UVs, its normals are shared. */
  around?: boolean
  /** The last row meets the first. */
  along?: boolean
}

/** The largest of what there is for each number from 0 to `n`; at least 0. */
function largest(n: number, of: (i: number) => number): number {
  let most = 0
  for (let i = 0; i <= n; i++) most = Math.max(most, of(i))
  return most
}

/**
 * Numbers the places of vertices in the order in which they come.
 * @param steps in how many steps a meter is divided: places that are the same to a step have one number
 */
export function numberPlaces(positions: ArrayLike<number>, steps: number): { placeOf: Uint32Array; count: number } {
  const rows = new RowNumbers()
  const placeOf = new Uint32Array(positions.length / 3)
  const step = (q: number): number => Math.round(positions[q]! * steps)
  for (let v = 0; v < placeOf.length; v++) placeOf[v] = rows.of(step(v * 3), step(v * 3 + 1), step(v * 3 + 2), 0)
  return { placeOf, count: rows.count }
}
/** Steps of a meter by which the places of shapes are told apart. */
const STEPS = 1e7

/** Where the lines of a grid lie, as far apart as the widest of the cells between them. */
function lines(cells: number, widest: (cell: number) => number): number[] {
  const at = [0]
  for (let k = 0; k < cells; k++) at.push(at[k]! + widest(k))
  return at
}

/**
 * A surface over a grid: `at(u, v)` for u across the columns and v along the rows, both 0..1, counter-clockwise seen
 * from outside. A row that shrinks to a point becomes a pole, without degenerate triangles.
 */
export function grid(
  columns: number,
  rows: number,
  at: (u: number, v: number) => Point,
  options: GridOptions = {},
): Shape {
  const points: Point[] = []
  const indices: number[] = []
  const index = (i: number, j: number) => j * (columns + 1) + i
  for (let j = 0; j <= rows; j++) {
    for (let i = 0; i <= columns; i++) {
      // A seam is the same point to the last bit, so that it welds.
      const u = options.around && i === columns ? 0 : i / columns
      const v = options.along && j === rows ? 0 : j / rows
      points.push(at(u, v))
    }
  }
  const between = (a: number, b: number): number => {
    const p = points[a]!
    const q = points[b]!
    return Math.hypot(q[0] - p[0], q[1] - p[1], q[2] - p[2])
  }
  const apart = (a: number, b: number) => between(a, b) > 1e-9
  for (let j = 0; j < rows; j++) {
    for (let i = 0; i < columns; i++) {
      const a = index(i, j)
      const b = index(i + 1, j)
      const c = index(i + 1, j + 1)
      const d = index(i, j + 1)
      if (apart(a, b)) indices.push(a, b, c)
      if (apart(c, d)) indices.push(a, c, d)
    }
  }
  const across = lines(columns, i => largest(rows, j => between(index(i, j), index(i + 1, j))))
  const down = lines(rows, j => largest(columns, i => between(index(i, j), index(i, j + 1))))
  const width = across.at(-1)!
  const height = down.at(-1)!
  const uvs: number[] = []
  for (const v of down) for (const u of across) uvs.push(u / width, v / height)
  const positions: number[] = []
  for (const point of points) positions.push(...point)
  return { positions, normals: smoothNormals(positions, indices), uvs, indices, width, height }
}

/** Area-weighted normals, shared by vertices at the same place. */
function smoothNormals(positions: number[], indices: number[]): number[] {
  const { placeOf, count } = numberPlaces(positions, STEPS)
  const sums = new Float64Array(count * 3)
  const used = new Uint8Array(count)
  const cross: Point = [0, 0, 0]
  for (let i = 0; i < indices.length; i++) {
    if (i % 3 === 0) triangleCross({ positions, indices }, i / 3, cross)
    const place = placeOf[indices[i]!]!
    used[place] = 1
    for (let k = 0; k < 3; k++) sums[place * 3 + k]! += cross[k]!
  }
  const normals: number[] = []
  for (const place of placeOf) {
    const x = sums[place * 3]!
    const y = sums[place * 3 + 1]!
    const z = sums[place * 3 + 2]!
    const length = Math.hypot(x, y, z) || 1
    if (used[place]) normals.push(x / length, y / length, z / length)
    else normals.push(0, 1, 0)
  }
  return normals
}

/**
 * The same surface with a normal of its own on each side of every edge that turns by more than `degrees`. Vertices are
 * split there.
 */
export function creased(shape: Shape, degrees: number): Shape {
  const { positions: p, indices } = shape
  const least = Math.cos((degrees * Math.PI) / 180)
  const faces = Array.from({ length: indices.length / 3 }, (_, t): Point => {
    const cross: Point = [0, 0, 0]
    triangleCross(shape, t, cross)
    return cross
  })
  const sizes = faces.map(n => Math.hypot(n[0], n[1], n[2]) || 1)
  // The triangles at each place.
  const { placeOf, count } = numberPlaces(p, STEPS)
  const around = Array.from({ length: count }, (): number[] => [])
  indices.forEach((v, i) => around[placeOf[v]!]!.push((i / 3) | 0))
  const known = new RowNumbers()
  const out: Shape = { ...shape, positions: [], normals: [], uvs: [], indices: [] }
  indices.forEach((v, i) => {
    const triangle = (i / 3) | 0
    const own = faces[triangle]!
    const sum: Point = [0, 0, 0]
    for (const t of around[placeOf[v]!]!) {
      const n = faces[t]!
      if ((own[0] * n[0] + own[1] * n[1] + own[2] * n[2]) / sizes[triangle]! / sizes[t]! < least) continue
      sum[0] += n[0]
      sum[1] += n[1]
      sum[2] += n[2]
    }
    const length = Math.hypot(...sum) || 1
    const normal = sum.map(x => x / length)
    const [nx, ny, nz] = normal.map(x => Math.round(x * 1e4)) as Point
    const at = known.of(v, nx, ny, nz)
    if (at === out.positions.length / 3) {
      out.positions.push(p[v * 3]!, p[v * 3 + 1]!, p[v * 3 + 2]!)
      out.normals.push(...normal)
      out.uvs.push(shape.uvs[v * 2]!, shape.uvs[v * 2 + 1]!)
    }
    out.indices.push(at)
  })
  return out
}

/**
 * A solid along y whose section is `section(angle)` wide in each direction (star-shaped, angle in radians), through
 * `rows` of height and share of the section, bottom to top; the first and the last row should have share 0.
 */
export const prism = (
  columns: number,
  section: (angle: number) => number,
  rows: readonly (readonly [y: number, share: number])[],
  crease = 35,
): Shape =>
  creased(
    grid(
      columns,
      rows.length - 1,
      (u, v) => {
        const [y, share] = rows[Math.round(v * (rows.length - 1))]!
        const a = u * 2 * Math.PI
        const r = section(a) * share
        return [r * Math.sin(a), y, r * Math.cos(a)]
      },
      { around: true },
    ),
    crease,
  )

/** A tube of radius `thick` along a curve through `at(0)` to `at(1)`, its ends closed. */
export function tube(
  columns: number,
  rows: number,
  at: (v: number) => Point,
  thick: (v: number, angle: number) => number,
): Shape {
  const unit = (a: Point): Point => a.map(q => q / (Math.hypot(...a) || 1)) as Point
  const cross = (a: Point, b: Point): Point => [
    a[1] * b[2] - a[2] * b[1],
    a[2] * b[0] - a[0] * b[2],
    a[0] * b[1] - a[1] * b[0],
  ]
  // A frame carried along, so that the tube does not twist.
  const frames: { x: Point; z: Point }[] = []
  for (let j = 0; j <= rows; j++) {
    const h = 0.5 / rows
    const before = at(Math.max(0, j / rows - h))
    const after = at(Math.min(1, j / rows + h))
    const y = unit(after.map((q, k) => q - before[k]!) as Point)
    const last = frames.at(-1)?.x ?? (Math.abs(y[1]) < 0.9 ? ([0, 1, 0] as Point) : ([1, 0, 0] as Point))
    const z = unit(cross(last, y))
    frames.push({ x: cross(y, z), z })
  }
  return grid(
    columns,
    rows,
    (u, v) => {
      const a = u * 2 * Math.PI
      const { x, z } = frames[Math.round(v * rows)]!
      const r = v === 0 || v === 1 ? 0 : thick(v, a)
      const center = at(v)
      return center.map((q, k) => q + r * (z[k]! * Math.sin(-a) + x[k]! * Math.cos(a))) as Point
    },
    { around: true },
  )
}

/** A body of revolution around y: `profile(v)` gives radius and height from top (v = 0) to bottom. */
export const lathe = (columns: number, rows: number, profile: (v: number) => [number, number]): Shape =>
  grid(
    columns,
    rows,
    (u, v) => {
      // From top to bottom, so the columns run clockwise to face outward.
      const [radius, y] = profile(v)
      const angle = -u * 2 * Math.PI
      return [radius * Math.sin(angle), y, radius * Math.cos(angle)]
    },
    { around: true },
  )

/** A ring around y with `radius`, its tube `tube(angle around the ring, angle around the tube)` thick. */
export const ring = (
  columns: number,
  rows: number,
  radius: number,
  tube: (ring: number, across: number) => number,
): Shape =>
  grid(
    columns,
    rows,
    (u, v) => {
      const a = u * 2 * Math.PI
      const b = v * 2 * Math.PI
      const t = tube(a, b)
      const r = radius + t * Math.cos(b)
      return [r * Math.sin(a), t * Math.sin(b), r * Math.cos(a)]
    },
    { around: true, along: true },
  )

/**
 * A bar along y, from 0 to `length`, with a rectangular section and beveled edges and ends. The ends are caps that
 * close in a point.
 */
export function bar(width: number, depth: number, length: number, bevel: number): Shape {
  // (1) The section: straight sides with rounded corners, unit outward offsets from an inner rectangle.
  const section: [number, number, number, number][] = []
  const corners: [number, number, number][] = [
    [1, 1, 0],
    [-1, 1, 90],
    [-1, -1, 180],
    [1, -1, 270],
  ]
  for (const [sx, sz, turn] of corners) {
    for (const step of [0, 30, 60, 90]) {
      const a = ((turn + step) * Math.PI) / 180
      section.push([sx * (width / 2 - bevel), sz * (depth / 2 - bevel), Math.cos(a) * bevel, Math.sin(a) * bevel])
    }
  }
  // (2) The rows: cap, bevel in three steps, side, bevel, cap. Each: height, how much of the offset, how much of the
  // inside.
  const arc = [0, 30, 60, 90].map(d => (d * Math.PI) / 180)
  const rows: [number, number, number][] = [
    [0, 0, 0],
    ...arc.map((a): [number, number, number] => [bevel - bevel * Math.cos(a), Math.sin(a), 1]),
    ...arc.map((a): [number, number, number] => [length - bevel + bevel * Math.sin(a), Math.cos(a), 1]),
    [length, 0, 0],
  ]
  return grid(
    section.length,
    rows.length - 1,
    (u, v) => {
      const [x, z, ox, oz] = section[Math.round((1 - u) * section.length) % section.length]!
      const [y, off, inside] = rows[Math.round(v * (rows.length - 1))]!
      return [x * inside + ox * off, y, z * inside + oz * off]
    },
    { around: true },
  )
}
