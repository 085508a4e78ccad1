import { boundsOf, type Mesh } from '../mesh/mesh'
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

/**
 * Looks at the mesh from the front, right and above, without perspective, close enough that single parts can be told
 * apart: the view is about five parts high, or shows the whole mesh where that is less.
 */
export function smallView(mesh: Mesh, parts: Parts, width: number, height: number): SmallView {
  const box = boundsOf(mesh.positions, mesh.indices)
  const whole = Math.hypot(...box.max.map((x, k) => x - box.min[k]!)) || 1
  const sizes = parts.parts.map(p => Math.hypot(...p.size)).sort((a, b) => a - b)
  const typical = sizes[Math.floor(sizes.length * 0.6)] ?? whole
  const scale = height / Math.min(whole * 0.9, typical * 5)
  const mid = box.min.map((x, k) => (x + box.max[k]!) / 2)
  const right = [0.82, 0, -0.57]
  const up = [-0.19, 0.94, -0.28]
  const toward = [0.54, 0.34, 0.77]
  const along = (axis: number[], v: number) =>
    axis.reduce((sum, a, k) => sum + a * (mesh.positions[v * 3 + k]! - mid[k]!), 0)

  const depth = new Float32Array(width * height).fill(-Infinity)
  const owner = new Int32Array(width * height).fill(-1)
  const us = new Float32Array(width * height)
  const vs = new Float32Array(width * height)
  const count = mesh.positions.length / 3
  const sx = new Float32Array(count)
  const sy = new Float32Array(count)
  const sz = new Float32Array(count)
  for (let v = 0; v < count; v++) {
    sx[v] = width / 2 + along(right, v) * scale
    sy[v] = height / 2 - along(up, v) * scale
    sz[v] = along(toward, v)
  }
  for (let t = 0; t < mesh.indices.length / 3; t++) {
    const a = mesh.indices[t * 3]!
    const b = mesh.indices[t * 3 + 1]!
    const c = mesh.indices[t * 3 + 2]!
    const area = (sx[b]! - sx[a]!) * (sy[c]! - sy[a]!) - (sx[c]! - sx[a]!) * (sy[b]! - sy[a]!)
    if (area === 0) continue
    const top = Math.max(0, Math.ceil(Math.min(sy[a]!, sy[b]!, sy[c]!) - 0.5))
    const bottom = Math.min(height - 1, Math.floor(Math.max(sy[a]!, sy[b]!, sy[c]!) - 0.5))
    const left = Math.max(0, Math.ceil(Math.min(sx[a]!, sx[b]!, sx[c]!) - 0.5))
    const end = Math.min(width - 1, Math.floor(Math.max(sx[a]!, sx[b]!, sx[c]!) - 0.5))
    for (let y = top; y <= bottom; y++) {
      for (let x = left; x <= end; x++) {
        const px = x + 0.5 - sx[a]!
        const py = y + 0.5 - sy[a]!
        const u = (px * (sy[c]! - sy[a]!) - (sx[c]! - sx[a]!) * py) / area
        const v = ((sx[b]! - sx[a]!) * py - px * (sy[b]! - sy[a]!)) / area
        if (u < 0 || v < 0 || u + v > 1) continue
        const z = sz[a]! + u * (sz[b]! - sz[a]!) + v * (sz[c]! - sz[a]!)
        const at = y * width + x
        if (z <= depth[at]!) continue
        depth[at] = z
        owner[at] = t
        us[at] = u
        vs[at] = v
      }
    }
  }
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
