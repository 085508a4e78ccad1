import { tileOrigin, type Covered, type Tiling } from '#core/bake/raster'
import type { Mesh } from '#core/mesh/mesh'
import { pointSet } from '#core/mesh/sample'

/** The kernels' rasterizing written plainly: what they find must be the same to the bit. */
export function rasterizeRows(
  { uvs, indices }: Pick<Mesh, 'uvs' | 'indices'>,
  { tiling, tile, triangles }: { tiling: Tiling; tile: number; triangles: Uint32Array },
  size: number,
  from: number,
  to: number,
): Covered {
  const rows = to - from
  const owner = new Int32Array(rows * size).fill(-1)
  const us = new Float32Array(rows * size)
  const vs = new Float32Array(rows * size)
  const [u0, v0] = tiling.repeats ? [0, 0] : tileOrigin(tile)
  const wrap = (x: number) => ((x % size) + size) % size
  let covered = 0
  for (const t of triangles) {
    const a = indices[t * 3]! * 2
    const b = indices[t * 3 + 1]! * 2
    const c = indices[t * 3 + 2]! * 2
    const ay = (uvs![a + 1]! - v0) * size - 0.5
    const by = (uvs![b + 1]! - v0) * size - 0.5
    const cy = (uvs![c + 1]! - v0) * size - 0.5
    let top = Math.ceil(Math.min(ay, by, cy))
    let bottom = Math.floor(Math.max(ay, by, cy))
    if (!tiling.repeats) {
      top = Math.max(top, from)
      bottom = Math.min(bottom, to - 1)
    }
    // Malformed UVs may span thousands of tiles; each texel is written once, so stop after one full turn.
    else bottom = Math.min(bottom, top + size - 1)
    if (!(top <= bottom)) continue
    const ax = (uvs![a]! - u0) * size - 0.5
    const bx = (uvs![b]! - u0) * size - 0.5
    const cx = (uvs![c]! - u0) * size - 0.5
    const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
    if (!(Math.abs(area) > 1e-12)) continue
    let left = Math.ceil(Math.min(ax, bx, cx))
    let right = Math.floor(Math.max(ax, bx, cx))
    if (tiling.repeats) right = Math.min(right, left + size - 1)
    else {
      left = Math.max(left, 0)
      right = Math.min(right, size - 1)
    }
    const uByX = (cy - ay) / area
    const uByY = (cx - ax) / area
    const vByX = (by - ay) / area
    const vByY = (bx - ax) / area
    for (let y = top; y <= bottom; y++) {
      const row = tiling.repeats ? wrap(y) - from : y - from
      if (row < 0 || row >= rows) continue
      for (let x = left; x <= right; x++) {
        const u = (x - ax) * uByX - (y - ay) * uByY
        const v = (y - ay) * vByY - (x - ax) * vByX
        if (u < 0 || v < 0 || u + v > 1) continue
        const texel = row * size + (tiling.repeats ? wrap(x) : x)
        if (owner[texel]! >= 0) continue
        owner[texel] = t
        us[texel] = u
        vs[texel] = v
        covered++
      }
    }
  }
  const points = pointSet(covered)
  const texel = new Uint32Array(covered)
  for (let i = 0, n = 0; n < covered; i++) {
    if (owner[i]! < 0) continue
    points.triangle[n] = owner[i]!
    points.u[n] = us[i]!
    points.v[n] = vs[i]!
    texel[n++] = i
  }
  return { texel, points }
}

/**
 * The growing of islands written plainly.
 * @param covered 1 where a texel has a value; changed in place, as are the lanes
 */
export function dilate(lanes: readonly Float32Array[], width: number, covered: Uint8Array, rings: number): void {
  const height = covered.length / width
  const near = (at: number, visit: (q: number) => void) => {
    const x = at % width
    const y = (at - x) / width
    for (let ny = Math.max(0, y - 1); ny <= Math.min(height - 1, y + 1); ny++) {
      for (let nx = Math.max(0, x - 1); nx <= Math.min(width - 1, x + 1); nx++) visit(ny * width + nx)
    }
  }
  // (1) Covered texels beside an empty one.
  let edge: number[] = []
  for (let at = 0; at < covered.length; at++) {
    if (!covered[at]) continue
    const x = at % width
    if (
      (x > 0 && !covered[at - 1]) ||
      (x < width - 1 && !covered[at + 1]) ||
      (at >= width && !covered[at - width]) ||
      (at + width < covered.length && !covered[at + width])
    )
      edge.push(at)
    // Corners count as well, but an empty corner beside two covered sides is one of theirs.
    else if (at >= width && ((x > 0 && !covered[at - width - 1]) || (x < width - 1 && !covered[at - width + 1])))
      edge.push(at)
    else if (
      at + width < covered.length &&
      ((x > 0 && !covered[at + width - 1]) || (x < width - 1 && !covered[at + width + 1]))
    )
      edge.push(at)
  }
  for (let ring = 0; ring < rings && edge.length; ring++) {
    // (2) Their empty neighbors, each once: 2 marks those of this ring, which do not count as covered yet.
    const grown: number[] = []
    for (const from of edge) {
      near(from, q => {
        if (covered[q]) return
        covered[q] = 2
        grown.push(q)
      })
    }
    for (const at of grown) {
      let n = 0
      for (const lane of lanes) lane[at] = 0
      near(at, q => {
        if (covered[q] !== 1) return
        n++
        for (const lane of lanes) lane[at]! += lane[q]!
      })
      for (const lane of lanes) lane[at]! /= n
    }
    for (const at of grown) covered[at] = 1
    edge = grown
  }
}
