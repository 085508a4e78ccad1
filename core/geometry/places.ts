import type { Box, Mesh } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'

/** How far each vertex's normal turns toward a direction: 1 toward it, 0.5 across, 0 away. */
export function facing(mesh: Pick<Mesh, 'normals'>, [x, y, z]: readonly [number, number, number]): Float32Array {
  const length = Math.hypot(x, y, z) || 1
  const n = mesh.normals
  return Float32Array.from(
    { length: n.length / 3 },
    (_, v) => 0.5 + (n[v * 3]! * x + n[v * 3 + 1]! * y + n[v * 3 + 2]! * z) / length / 2,
  )
}

/**
 * Where each vertex is in the box of the mesh, of its object, group or part: 0 to 1 along each side, 0.5 on a flat one.
 */
export function position(mesh: Mesh, parts: Parts, space: 'world' | 'object' | 'group' | 'part'): Float32Array {
  const p = mesh.positions
  const boxes = new Map<number, Box>()
  const boxOf = (part: number) => {
    const { object, group } = parts.parts[part]!
    const id = { world: 0, object, group, part }[space]
    let box = boxes.get(id)
    if (!box) boxes.set(id, (box = { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] }))
    return box
  }
  const own = parts.parts.map((part, i) => {
    const box = boxOf(i)
    for (let k = 0; k < 3; k++) {
      box.min[k] = Math.min(box.min[k]!, part.min[k]!)
      box.max[k] = Math.max(box.max[k]!, part.min[k]! + part.size[k]!)
    }
    return box
  })
  const out = new Float32Array(p.length)
  for (let v = 0; v < p.length / 3; v++) {
    const { min, max } = own[parts.partOfVertex[v]!]!
    for (let k = 0; k < 3; k++) {
      const side = max[k]! - min[k]!
      out[v * 3 + k] = side > 0 ? Math.min(1, Math.max(0, (p[v * 3 + k]! - min[k]!) / side)) : 0.5
    }
  }
  return out
}

/**
 * Where each vertex is along its part's longest axis (0 to 1), across it (distance from the axis through the centroid,
 * 1 at the part's farthest point) and around it (0 to 1 once around, from the side that is up, or from +X on an upright
 * part).
 */
export function alongAxis(mesh: Mesh, parts: Parts): Float32Array {
  const p = mesh.positions
  const vertices = p.length / 3
  const out = new Float32Array(p.length)
  const count = parts.parts.length
  const frames = parts.parts.map(({ longestAxis: a }) => {
    const up = Math.abs(a[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]
    const along = a[0] * up[0]! + a[1] * up[1]! + a[2] * up[2]!
    const e = up.map((x, k) => x - along * a[k]!)
    const l = Math.hypot(...e)
    const f = e.map(x => x / l)
    return { a, f, g: [a[1] * f[2]! - a[2] * f[1]!, a[2] * f[0]! - a[0] * f[2]!, a[0] * f[1]! - a[1] * f[0]!] }
  })
  const low = new Float64Array(count).fill(Infinity)
  const high = new Float64Array(count).fill(-Infinity)
  const far = new Float64Array(count)
  for (let v = 0; v < vertices; v++) {
    const n = parts.partOfVertex[v]!
    const { a, f, g } = frames[n]!
    const c = parts.parts[n]!.centroid
    const x = p[v * 3]! - c[0]
    const y = p[v * 3 + 1]! - c[1]
    const z = p[v * 3 + 2]! - c[2]
    const s = x * a[0] + y * a[1] + z * a[2]
    const u = x * f[0]! + y * f[1]! + z * f[2]!
    const w = x * g[0]! + y * g[1]! + z * g[2]!
    const r = Math.hypot(u, w)
    out[v * 3] = s
    out[v * 3 + 1] = r
    out[v * 3 + 2] = (Math.atan2(w, u) / (2 * Math.PI) + 1) % 1
    low[n] = Math.min(low[n]!, s)
    high[n] = Math.max(high[n]!, s)
    far[n] = Math.max(far[n]!, r)
  }
  for (let v = 0; v < vertices; v++) {
    const n = parts.partOfVertex[v]!
    const length = high[n]! - low[n]!
    out[v * 3] = length > 0 ? Math.min(1, Math.max(0, (out[v * 3]! - low[n]!) / length)) : 0.5
    out[v * 3 + 1] = far[n]! > 0 ? out[v * 3 + 1]! / far[n]! : 0
  }
  return out
}
