import type { Texels } from '../kernels/texels'
import type { Mesh } from '../mesh/mesh'
import type { SurfacePoints } from '../mesh/sample'
import { tileOf } from '../mesh/uvs'

type Laid = Pick<Mesh, 'uvs' | 'indices'>

/**
 * Texels of some rows of a square image that the UV layout covers: number (row by row, counted from the first of the
 * rows) and surface point.
 */
export interface Covered {
  texel: Uint32Array
  points: SurfacePoints
}

/**
 * The tiles of a layout. UDIM numbers 1001 + column + 10 row, with columns 0 to 9; a layout that reaches anywhere else
 * repeats: all of it is wrapped into tile 1001.
 */
export interface Tiling {
  tiles: number[]
  repeats: boolean
  triangles(tile: number): Uint32Array
}

export function tilingOf({ uvs, indices }: Laid): Tiling {
  const count = indices.length / 3
  const all = () => Uint32Array.from({ length: count }, (_, t) => t)
  const lists = new Map<number, number[]>()
  if (!uvs) return { tiles: [], repeats: false, triangles: () => new Uint32Array(0) }
  for (let t = 0; t < count; t++) {
    const a = indices[t * 3]!
    const b = indices[t * 3 + 1]!
    const c = indices[t * 3 + 2]!
    const tile = tileOf(uvs, a, b, c)
    const u = Math.floor((uvs[a * 2]! + uvs[b * 2]! + uvs[c * 2]!) / 3)
    if (!(tile >= 1001 && tile <= 9999 && u >= 0 && u <= 9)) return { tiles: [1001], repeats: true, triangles: all }
    const list = lists.get(tile)
    if (list) list.push(t)
    else lists.set(tile, [t])
  }
  return {
    tiles: [...lists.keys()].sort((a, b) => a - b),
    repeats: false,
    triangles: tile => Uint32Array.from(lists.get(tile) ?? []),
  }
}

/** Where a tile begins in UV space, v downward. */
export const tileOrigin = (tile: number): [number, number] => [(tile - 1001) % 10, -Math.floor((tile - 1001) / 10)]

/** The triangles of a tile, and the lowest and highest v of each. */
export interface TileTriangles {
  triangles: Uint32Array
  spans: Float32Array
}
export function trianglesOf({ uvs, indices }: Laid, tiling: Tiling, tile: number): TileTriangles {
  const triangles = tiling.triangles(tile)
  const spans = new Float32Array(triangles.length * 2)
  for (let i = 0; i < triangles.length; i++) {
    const at = triangles[i]! * 3
    const a = uvs![indices[at]! * 2 + 1]!
    const b = uvs![indices[at + 1]! * 2 + 1]!
    const c = uvs![indices[at + 2]! * 2 + 1]!
    spans[i * 2] = Math.min(a, b, c)
    spans[i * 2 + 1] = Math.max(a, b, c)
  }
  return { triangles, spans }
}

/** Triangles of a tile laid out for the kernels, and room for what they find in some rows. */
export interface Laying {
  count: number
  corners: number
  ids: number
  repeats: boolean
  origin: [number, number]
  cells: number
  taken: number
  texel: number
  triangle: number
  us: number
  vs: number
}

/**
 * Hands the triangles that may cover some rows to the kernels, in memory that the caller gives back.
 * @param size texels along each side of the tile
 * @param from first row, and `to` the one behind the last
 * @param most rows that are rasterized at a time
 */
export function layTriangles(
  texels: Texels,
  { uvs, indices }: Laid,
  { tiling, tile, triangles, spans }: TileTriangles & { tiling: Tiling; tile: number },
  size: number,
  from: number,
  to: number,
  most: number,
): Laying {
  const origin: [number, number] = tiling.repeats ? [0, 0] : tileOrigin(tile)
  const kept = new Uint32Array(triangles.length)
  const low = (from - 0.5) / size + origin[1]
  const high = (to + 0.5) / size + origin[1]
  let count = 0
  for (let i = 0; i < triangles.length; i++)
    if (tiling.repeats || (spans[i * 2 + 1]! >= low && spans[i * 2]! <= high)) kept[count++] = triangles[i]!
  const cells = most * size
  const corners = texels.take(count * 24)
  const ids = texels.take(count * 4)
  const taken = texels.take(cells)
  const [texel, triangle, us, vs] = Array.from({ length: 4 }, () => texels.take(cells * 4)) as [
    number,
    number,
    number,
    number,
  ]
  texels.words(ids, count).set(kept.subarray(0, count))
  const laid = texels.floats(corners, count * 6)
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < 3; k++) {
      const vertex = indices[kept[i]! * 3 + k]!
      laid[i * 6 + k * 2] = uvs![vertex * 2]!
      laid[i * 6 + k * 2 + 1] = uvs![vertex * 2 + 1]!
    }
  }
  return { count, corners, ids, repeats: tiling.repeats, origin, cells, taken, texel, triangle, us, vs }
}

/**
 * Rasterizes triangles in UV space. A texel belongs to the triangle that holds its middle; where two hold it (a shared
 * edge, overlapping islands), to the one that comes first. glTF's v runs downward, as rows do.
 * @returns triangle by triangle; views of the kernels' memory, good until it is used again
 */
export function rasterizeRows(texels: Texels, laying: Laying, size: number, from: number, to: number): Covered {
  const {
    corners,
    ids,
    taken,
    texel,
    triangle,
    us,
    vs,
    repeats,
    origin: [u0, v0],
  } = laying
  const count = texels.timed(run =>
    run.raster(corners, ids, laying.count, size, from, to, Number(repeats), u0, v0, taken, texel, triangle, us, vs),
  )
  return {
    texel: texels.words(texel, count),
    points: {
      count,
      triangle: texels.words(triangle, count),
      u: texels.floats(us, count),
      v: texels.floats(vs, count),
      footprint: { uv: 1 / size },
    },
  }
}

/** Some rows of one tile's image; all of them where none are named. */
export function rasterizeTile(
  texels: Texels,
  mesh: Laid,
  size: number,
  tile = 1001,
  tiling = tilingOf(mesh),
  from = 0,
  to = size,
): Covered {
  const mark = texels.mark()
  const laying = layTriangles(
    texels,
    mesh,
    { tiling, tile, ...trianglesOf(mesh, tiling, tile) },
    size,
    from,
    to,
    to - from,
  )
  const { texel, points } = rasterizeRows(texels, laying, size, from, to)
  texels.release(mark)
  return {
    texel: texel.slice(),
    points: { ...points, triangle: points.triangle.slice(), u: points.u.slice(), v: points.v.slice() },
  }
}
