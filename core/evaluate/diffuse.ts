import { stiffness, type Stiffness } from '../geometry/curvature'
import { spreadOut, surfaceOf, type Surface } from '../geometry/surface'
import { dot, minus, mixed, type Vector } from '../mesh/vector'
import type { MeshTables } from './tables'

/** What diffusion needs of a mesh, kept as long as its vertices stay the same array. */
const known = new WeakMap<Float32Array, { surface: Surface; matrix?: Stiffness }>()
function surfaceFor({ mesh, parts }: MeshTables): { surface: Surface; matrix?: Stiffness } {
  let found = known.get(mesh.positions)
  if (!found) known.set(mesh.positions, (found = { surface: surfaceOf(mesh, parts) }))
  return found
}

/** A column per vertex of the mesh as one per welded vertex: the mean where several are one, so that no seam shows. */
function gather({ of, count }: Surface, values: Float32Array): Float64Array {
  const sums = new Float64Array(count)
  const times = new Uint32Array(count)
  of.forEach((v, i) => {
    sums[v]! += values[i]!
    times[v]!++
  })
  return sums.map((x, v) => x / Math.max(1, times[v]!))
}

/** Conjugate gradients stop when the residual has shrunk by this much. */
const PRECISION = 1e-6
const MOST_STEPS = 500

/**
 * Softens a column over the surface: one implicit step of the heat equation, (M + tL) x = M f with t = radius² / 2, on
 * the cotangent matrix; a point spreads about as far as the radius. The mean by area stays what it was, since L's rows
 * add up to 0.
 * @param radius in meters
 */
export function soften(tables: MeshTables, values: Float32Array, radius: number): Float32Array {
  const entry = surfaceFor(tables)
  const { surface } = entry
  const { starts, neighbors, weights, diagonal, mass } = (entry.matrix ??= stiffness(surface))
  const n = surface.count
  if (!(radius > 0)) return values.slice()
  const t = (radius * radius) / 2
  const f = gather(surface, values)
  const x = f.slice()
  const r = new Float64Array(n)
  const s = new Float64Array(n)
  const as = new Float64Array(n)
  const inverse = Float64Array.from({ length: n }, (_, i) => 1 / Math.max(mass[i]! + t * diagonal[i]!, 1e-300))
  const apply = (v: Float64Array, out: Float64Array) => {
    for (let i = 0; i < n; i++) {
      let sum = 0
      for (let k = starts[i]!, end = starts[i + 1]!; k < end; k++) sum += weights[k]! * v[neighbors[k]!]!
      out[i] = (mass[i]! + t * diagonal[i]!) * v[i]! - t * sum
    }
  }
  // (1) r = Mf − Ax, s = r / diagonal.
  apply(x, as)
  let rz = 0
  let norm = 0
  for (let i = 0; i < n; i++) {
    const b = mass[i]! * f[i]!
    r[i] = b - as[i]!
    s[i] = r[i]! * inverse[i]!
    rz += r[i]! * s[i]!
    norm += b * b * inverse[i]!
  }
  const goal = norm * PRECISION * PRECISION
  for (let step = 0; rz > goal && step < MOST_STEPS; step++) {
    // (2) One step of conjugate gradients.
    apply(s, as)
    let sas = 0
    for (let i = 0; i < n; i++) sas += s[i]! * as[i]!
    if (!(sas > 0)) break
    const a = rz / sas
    let next = 0
    for (let i = 0; i < n; i++) {
      x[i]! += a * s[i]!
      r[i]! -= a * as[i]!
      next += r[i]! * r[i]! * inverse[i]!
    }
    const b = next / rz
    rz = next
    for (let i = 0; i < n; i++) s[i] = r[i]! * inverse[i]! + b * s[i]!
  }
  return spreadOut(surface, x)
}

function toSegment(p: Vector, a: Vector, b: Vector): number {
  const ab = minus(b, a)
  const l = dot(ab, ab)
  const t = l > 0 ? Math.min(1, Math.max(0, dot(minus(p, a), ab) / l)) : 0
  return Math.hypot(...minus(p, mixed(a, b, t)))
}

/**
 * Moves the edge of a mask, where it passes one half, along the surface, and gives it a width.
 *
 * The way to the edge is measured from the straight line it makes through each triangle, and carried on over the
 * triangles by fast marching (Kimmel and Sethian, "Computing geodesic paths on manifolds", 1998); across obtuse corners
 * it follows the edges. A part without an edge is left as it is.
 * @param amount meters; positive grows what is above a half
 * @param width of the soft edge, in meters
 */
export function moveEdge(tables: MeshTables, values: Float32Array, amount: number, width: number): Float32Array {
  const { surface } = surfaceFor(tables)
  const { count, positions, triangles } = surface
  const f = gather(surface, values)
  const half = Math.max(width, 1e-9) / 2
  const reach = Math.abs(amount) + half
  const way = new Float64Array(count).fill(Infinity)
  const done = new Uint8Array(count)
  const at = (v: number): Vector => [positions[v * 3]!, positions[v * 3 + 1]!, positions[v * 3 + 2]!]
  // (1) Triangles around each vertex.
  const starts = new Uint32Array(count + 1)
  for (const v of triangles) starts[v + 1]!++
  for (let i = 0; i < count; i++) starts[i + 1]! += starts[i]!
  const around = new Uint32Array(triangles.length)
  const next = starts.slice(0, count)
  triangles.forEach((v, i) => {
    around[next[v]!++] = (i / 3) | 0
  })
  // (2) Corners of the triangles that the edge passes through.
  const heap: [way: number, vertex: number][] = []
  const push = (v: number, d: number) => {
    if (d >= way[v]! || d > reach * 1.5) return
    way[v] = d
    let i = heap.push([d, v]) - 1
    for (let up = (i - 1) >> 1; i > 0 && heap[up]![0] > d; i = up, up = (i - 1) >> 1) {
      const held = heap[up]!
      heap[up] = heap[i]!
      heap[i] = held
    }
  }
  const inside = (v: number) => f[v]! > 0.5
  const crossed = new Set<number>()
  for (let t = 0; t < triangles.length; t += 3) {
    const v = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!] as const
    const ends: Vector[] = []
    for (let k = 0; k < 3; k++) {
      const a = v[k]!
      const b = v[(k + 1) % 3]!
      if (inside(a) !== inside(b)) ends.push(mixed(at(a), at(b), (0.5 - f[a]!) / (f[b]! - f[a]!)))
    }
    if (ends.length < 2) continue
    for (const a of v) {
      crossed.add(surface.part[a]!)
      push(a, toSegment(at(a), ends[0]!, ends[1]!))
    }
  }
  // (3) Outward, the nearest first.
  const pop = (): [number, number] => {
    const top = heap[0]!
    const last = heap.pop()!
    if (heap.length) {
      heap[0] = last
      for (let i = 0; ;) {
        let least = i
        for (const c of [2 * i + 1, 2 * i + 2]) if (c < heap.length && heap[c]![0] < heap[least]![0]) least = c
        if (least === i) break
        const held = heap[i]!
        heap[i] = heap[least]!
        heap[least] = held
        i = least
      }
    }
    return top
  }
  while (heap.length) {
    const [d, v] = pop()
    if (done[v] || d > way[v]!) continue
    done[v] = 1
    for (let k = starts[v]!; k < starts[v + 1]!; k++) {
      const t = around[k]! * 3
      for (let c = 0; c < 3; c++) {
        const x = triangles[t + c]!
        if (x === v || done[x]) continue
        const p = at(x)
        const pv = minus(at(v), p)
        let best = d + Math.hypot(...pv)
        const w = triangles[t]! + triangles[t + 1]! + triangles[t + 2]! - v - x
        if (done[w]) best = Math.min(best, across(pv, minus(at(w), p), d, way[w]!))
        push(x, best)
      }
    }
  }
  return spreadOut(
    surface,
    f.map((x, v) => {
      if (!crossed.has(surface.part[v]!)) return Math.min(1, Math.max(0, x))
      const signed = (inside(v) ? 1 : -1) * Math.min(way[v]!, reach * 2)
      return Math.min(1, Math.max(0, 0.5 + (signed + amount) / (2 * half)))
    }),
  )
}

/**
 * The way to a corner from the ways to the two others, as if a straight front came through the triangle; Infinity where
 * it would come from outside.
 */
function across(a: Vector, b: Vector, da: number, db: number): number {
  // The front's gradient g in the triangle's plane has g·a = da − d and g·b = db − d, and length 1.
  const aa = dot(a, a)
  const ab = dot(a, b)
  const bb = dot(b, b)
  const det = aa * bb - ab * ab
  if (!(det > 1e-30)) return Infinity
  const iaa = bb / det
  const iab = -ab / det
  const ibb = aa / det
  const q = iaa + 2 * iab + ibb
  const l = iaa * da + iab * (da + db) + ibb * db
  const c = iaa * da * da + 2 * iab * da * db + ibb * db * db - 1
  const root = l * l - q * c
  if (root < 0) return Infinity
  const d = (l + Math.sqrt(root)) / q
  // Where the front comes in between a and b, both weights are positive.
  const wa = iaa * (da - d) + iab * (db - d)
  const wb = iab * (da - d) + ibb * (db - d)
  return d >= Math.max(da, db) && wa <= 0 && wb <= 0 ? d : Infinity
}
