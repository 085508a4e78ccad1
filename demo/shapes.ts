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

/** The numbers from 0 to `n`. */
const count = (n: number): number[] => Array.from({ length: n + 1 }, (_, i) => i)

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
  const between = (a: number, b: number) => Math.hypot(...[0, 1, 2].map(k => points[b]![k]! - points[a]![k]!))
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
  const across = lines(columns, i => Math.max(...count(rows).map(j => between(index(i, j), index(i + 1, j)))))
  const down = lines(rows, j => Math.max(...count(columns).map(i => between(index(i, j), index(i, j + 1)))))
  const width = across.at(-1)!
  const height = down.at(-1)!
  const uvs = down.flatMap(v => across.flatMap(u => [u / width, v / height]))
  return { positions: points.flat(), normals: smoothNormals(points, indices), uvs, indices, width, height }
}

/** Area-weighted normals, shared by vertices at the same place. */
function smoothNormals(points: Point[], indices: number[]): number[] {
  const places = new Map<string, number>()
  const placeOf = points.map(([x, y, z]) => {
    const key = `${Math.round(x * 1e7)} ${Math.round(y * 1e7)} ${Math.round(z * 1e7)}`
    const place = places.get(key) ?? places.size
    places.set(key, place)
    return place * 3
  })
  const sums = new Float64Array(places.size * 3)
  for (let i = 0; i < indices.length; i += 3) {
    const a = points[indices[i]!]!
    const b = points[indices[i + 1]!]!
    const c = points[indices[i + 2]!]!
    const [ux, uy, uz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]]
    const [vx, vy, vz] = [c[0] - a[0], c[1] - a[1], c[2] - a[2]]
    for (let k = 0; k < 3; k++) {
      const at = placeOf[indices[i + k]!]!
      sums[at]! += uy * vz - uz * vy
      sums[at + 1]! += uz * vx - ux * vz
      sums[at + 2]! += ux * vy - uy * vx
    }
  }
  const used = new Set(indices.map(v => placeOf[v]))
  return placeOf.flatMap(at => {
    if (!used.has(at)) return [0, 1, 0]
    const length = Math.hypot(sums[at]!, sums[at + 1]!, sums[at + 2]!) || 1
    return [sums[at]! / length, sums[at + 1]! / length, sums[at + 2]! / length]
  })
}

/**
 * The same surface with a normal of its own on each side of every edge that turns by more than `degrees`. Vertices are
 * split there.
 */
export function creased(shape: Shape, degrees: number): Shape {
  const { positions: p, indices } = shape
  const least = Math.cos((degrees * Math.PI) / 180)
  const cross = (t: number): Point => {
    const [a, b, c] = [0, 1, 2].map(k => p.slice(indices[t * 3 + k]! * 3, indices[t * 3 + k]! * 3 + 3)) as [
      number[],
      number[],
      number[],
    ]
    const u = b.map((x, k) => x - a[k]!)
    const v = c.map((x, k) => x - a[k]!)
    return [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!]
  }
  const faces = Array.from({ length: indices.length / 3 }, (_, t) => cross(t))
  const around = new Map<string, number[]>()
  const key = (v: number) =>
    p
      .slice(v * 3, v * 3 + 3)
      .map(x => Math.round(x * 1e7))
      .join()
  indices.forEach((v, i) => around.set(key(v), [...(around.get(key(v)) ?? []), (i / 3) | 0]))
  const known = new Map<string, number>()
  const out: Shape = { ...shape, positions: [], normals: [], uvs: [], indices: [] }
  indices.forEach((v, i) => {
    const own = faces[(i / 3) | 0]!
    const length = Math.hypot(...own) || 1
    const sum: Point = [0, 0, 0]
    for (const t of around.get(key(v))!) {
      const n = faces[t]!
      const other = Math.hypot(...n) || 1
      if ((own[0] * n[0] + own[1] * n[1] + own[2] * n[2]) / length / other >= least)
        n.forEach((x, k) => {
          sum[k]! += x
        })
    }
    const normal = sum.map(x => x / (Math.hypot(...sum) || 1))
    const id = `${v} ${normal.map(x => x.toFixed(4)).join()}`
    let at = known.get(id)
    if (at === undefined) {
      known.set(id, (at = out.positions.length / 3))
      out.positions.push(...p.slice(v * 3, v * 3 + 3))
      out.normals.push(...normal)
      out.uvs.push(...shape.uvs.slice(v * 2, v * 2 + 2))
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
