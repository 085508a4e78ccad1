import type { Surface } from './surface'

/** Where a part has no open edge, edges that turn by more than this count as its border. */
const CREASE = Math.cos((40 * Math.PI) / 180)

/**
 * The way from each vertex to the nearest open edge of its part, along the edges of the mesh (Dijkstra), as a share of
 * `distance`; to creases where the part has no open edge; 1 where there is neither, or beyond the distance.
 */
export function borderDistance(surface: Surface, distance: number): Float32Array {
  const { count, positions, part, edges, triangles } = surface
  const { a, b } = edges
  const length = (i: number, j: number) =>
    Math.hypot(
      positions[i * 3]! - positions[j * 3]!,
      positions[i * 3 + 1]! - positions[j * 3 + 1]!,
      positions[i * 3 + 2]! - positions[j * 3 + 2]!,
    )
  // (1) Border edges: open ones, else creases.
  const open = new Set<number>()
  for (let e = 0; e < a.length; e++) if (edges.count[e] === 1) open.add(part[a[e]!]!)
  const normal = (t: number): number[] => {
    const [p, q, r] = [0, 1, 2].map(k => triangles[t * 3 + k]! * 3) as [number, number, number]
    const u = [0, 1, 2].map(k => positions[q + k]! - positions[p + k]!)
    const v = [0, 1, 2].map(k => positions[r + k]! - positions[p + k]!)
    const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!]
    const l = Math.hypot(...n) || 1
    return n.map(x => x / l)
  }
  const best = new Float64Array(count).fill(Infinity)
  const heap: number[] = []
  for (let e = 0; e < a.length; e++) {
    let border = edges.count[e] === 1
    if (!open.has(part[a[e]!]!) && edges.second[e]! >= 0) {
      const m = normal(edges.first[e]!)
      const n = normal(edges.second[e]!)
      border = m[0]! * n[0]! + m[1]! * n[1]! + m[2]! * n[2]! < CREASE
    }
    if (border)
      for (const v of [a[e]!, b[e]!])
        if (best[v] !== 0) {
          best[v] = 0
          heap.push(v)
        }
  }
  // (2) Rows of neighbors.
  const starts = new Uint32Array(count + 1)
  for (let e = 0; e < a.length; e++) {
    starts[a[e]! + 1]!++
    starts[b[e]! + 1]!++
  }
  for (let i = 0; i < count; i++) starts[i + 1]! += starts[i]!
  const neighbors = new Uint32Array(starts[count]!)
  const next = starts.slice(0, count)
  for (let e = 0; e < a.length; e++) {
    neighbors[next[a[e]!]!++] = b[e]!
    neighbors[next[b[e]!]!++] = a[e]!
  }
  // (3) Dijkstra with buckets a hundredth of the distance wide; within a bucket order does not matter much, since a
  // vertex that gets nearer goes around again.
  const width = distance / 200
  const buckets: number[][] = [heap]
  for (let at = 0; at < buckets.length; at++) {
    const bucket = (buckets[at] ??= [])
    for (let i = 0; i < bucket.length; i++) {
      const v = bucket[i]!
      const own = best[v]!
      if (Math.floor(own / width) < at) continue
      for (let k = starts[v]!; k < starts[v + 1]!; k++) {
        const w = neighbors[k]!
        const way = own + length(v, w)
        if (way >= best[w]! || way > distance) continue
        best[w] = way
        const slot = Math.floor(way / width)
        ;(buckets[slot] ??= []).push(w)
      }
    }
  }
  return Float32Array.from(best, x => Math.min(1, x / distance))
}
