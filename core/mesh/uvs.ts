import { weldedEdges } from './edges'
import { triangleAreas, type Mesh } from './mesh'

export interface UvReport {
  /** UDIM numbers of the tiles in use. */
  tiles: number[]
  /** Share of the covered texels that more than one triangle covers. */
  overlapping: number
  /** 1 for each triangle that shares texels with another. */
  overlaps: Uint8Array
  /** Triangles whose UVs run the other way around, and those whose UVs have no area. */
  mirrored: number
  collapsed: number
}

/** The UDIM number of a triangle: that of its middle, since corners lie on borders. V runs downward. */
export function tileOf(uvs: Float32Array, a: number, b: number, c: number): number {
  const u = (uvs[a * 2]! + uvs[b * 2]! + uvs[c * 2]!) / 3
  const v = 1 - (uvs[a * 2 + 1]! + uvs[b * 2 + 1]! + uvs[c * 2 + 1]!) / 3
  return 1001 + Math.floor(u) + 10 * Math.floor(v)
}

/** How far inside a triangle a texel's middle must be to count, as a share: neighbors share their edges. */
const INSET = 1e-3

/** Looks at the UV layout on a raster of `size` texels a side for each tile. */
export function inspectUvs(mesh: Pick<Mesh, 'uvs' | 'indices'>, size = 1024): UvReport {
  const { uvs, indices } = mesh
  const triangles = indices.length / 3
  const overlaps = new Uint8Array(triangles)
  if (!uvs) return { tiles: [], overlapping: 0, overlaps, mirrored: 0, collapsed: 0 }
  const tiles = new Map<number, Int32Array>()
  let mirrored = 0
  let collapsed = 0
  let covered = 0
  const twice = new Set<number>()
  for (let t = 0; t < triangles; t++) {
    const a = indices[t * 3]!
    const b = indices[t * 3 + 1]!
    const c = indices[t * 3 + 2]!
    const tile = tileOf(uvs, a, b, c)
    let owners = tiles.get(tile)
    // A broken layout may be spread over any number of tiles; the first hundred are looked at.
    if (!owners) tiles.set(tile, (owners = new Int32Array(tiles.size < 100 ? size * size : 0).fill(-1)))
    const u0 = Math.floor((uvs[a * 2]! + uvs[b * 2]! + uvs[c * 2]!) / 3)
    const v0 = Math.floor((uvs[a * 2 + 1]! + uvs[b * 2 + 1]! + uvs[c * 2 + 1]!) / 3)
    const ax = (uvs[a * 2]! - u0) * size
    const ay = (uvs[a * 2 + 1]! - v0) * size
    const bx = (uvs[b * 2]! - u0) * size
    const by = (uvs[b * 2 + 1]! - v0) * size
    const cx = (uvs[c * 2]! - u0) * size
    const cy = (uvs[c * 2 + 1]! - v0) * size
    // V runs downward, so a triangle that is not mirrored runs clockwise here.
    const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    if (Math.abs(area) < 1e-7 * size) {
      collapsed++
      continue
    }
    if (area > 0) mirrored++
    const top = Math.max(0, Math.ceil(Math.min(ay, by, cy) - 0.5))
    const bottom = Math.min(size - 1, Math.floor(Math.max(ay, by, cy) - 0.5))
    const left = Math.max(0, Math.ceil(Math.min(ax, bx, cx) - 0.5))
    const right = Math.min(size - 1, Math.floor(Math.max(ax, bx, cx) - 0.5))
    for (let y = top; y <= bottom; y++) {
      for (let x = left; x <= right; x++) {
        const px = x + 0.5 - ax
        const py = y + 0.5 - ay
        const p = (px * (cy - ay) - py * (cx - ax)) / area
        const q = ((bx - ax) * py - (by - ay) * px) / area
        if (p < INSET || q < INSET || p + q > 1 - INSET) continue
        const at = y * size + x
        const other = owners[at]
        if (other === undefined) continue
        if (other < 0) {
          owners[at] = t
          covered++
        } else {
          overlaps[t] = overlaps[other] = 1
          twice.add(tile * size * size + at)
        }
      }
    }
  }
  return {
    tiles: [...tiles.keys()].sort((a, b) => a - b),
    overlapping: covered ? twice.size / covered : 0,
    overlaps,
    mirrored,
    collapsed,
  }
}

/**
 * The UV layout for drawing: corners of overlapping triangles, and the ends of every edge on an island's border, as
 * vertices.
 */
export function uvLayout(
  mesh: Pick<Mesh, 'indices' | 'positions'>,
  overlaps: Uint8Array,
): { overlapping: Uint32Array; borders: Uint32Array } {
  const { indices } = mesh
  const overlapping: number[] = []
  overlaps.forEach((o, t) => {
    if (o) overlapping.push(indices[t * 3]!, indices[t * 3 + 1]!, indices[t * 3 + 2]!)
  })
  // Vertices are split where UVs are, so an edge with one triangle is a border.
  const { a, b, count } = weldedEdges(
    mesh,
    Uint32Array.from({ length: mesh.positions.length / 3 }, (_, v) => v),
  )
  const borders: number[] = []
  for (let e = 0; e < a.length; e++) if (count[e] === 1) borders.push(a[e]!, b[e]!)
  return { overlapping: Uint32Array.from(overlapping), borders: Uint32Array.from(borders) }
}

const densities = new WeakMap<Float32Array, Float32Array>()
/** How far the UVs of each triangle run for a meter of the surface: the root of area over area; 0 without UVs. */
export function uvDensities(mesh: Pick<Mesh, 'positions' | 'indices' | 'uvs'>): Float32Array {
  const { uvs, indices } = mesh
  if (!uvs) return new Float32Array(indices.length / 3)
  let found = densities.get(uvs)
  if (found?.length === indices.length / 3) return found
  const areas = triangleAreas(mesh)
  found = Float32Array.from(areas, (area, t) => {
    const [a, b, c] = [indices[t * 3]! * 2, indices[t * 3 + 1]! * 2, indices[t * 3 + 2]! * 2]
    const across = (uvs[b]! - uvs[a]!) * (uvs[c + 1]! - uvs[a + 1]!) - (uvs[b + 1]! - uvs[a + 1]!) * (uvs[c]! - uvs[a]!)
    return area > 0 ? Math.sqrt(Math.abs(across) / 2 / area) : 0
  })
  densities.set(uvs, found)
  return found
}
