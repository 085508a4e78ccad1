import type { Compressor } from '../bake/compress'
import { rasterizeTile } from '../bake/raster'
import { cornerTangents, type TangentMaker } from '../bake/tangents'
import type { Picture } from '../evaluate/pictures'
import type { Texels } from '../kernels/texels'
import type { Mesh } from '../mesh/mesh'
import { picturesOfTriangles, readLaid, uvsOfSet, type LaidPicture } from './laidPicture'
import { TileSheet } from './tileSheet'

/** Which way green grows in a picture of normals in tangent space: up in the picture, as glTF has it, or down. */
export type Green = 'up' | 'down'

/** A picture of normals in tangent space, and where it lies. */
export interface NormalSource extends LaidPicture {
  green: Green
}

/**
 * Which way green grows in a picture of normals. Slopes of a height have no curl: what red changes by downward is what
 * green changes by to the right, with the sign that tells (see {@link Green}). Undefined where the picture says
 * neither, as a plain one does.
 */
export function greenOf({ width, height, data }: Picture): Green | undefined {
  const most = data instanceof Float32Array ? 1 : 255
  let agree = 0
  let all = 0
  const slope = (x: number, y: number, k: number): number => {
    const at = ((y % height) * width + (x % width)) * 4
    const n = [0, 1, 2].map(lane => (data[at + lane]! / most) * 2 - 1)
    return -n[k]! / Math.max(0.1, n[2]!)
  }
  const step = Math.max(1, Math.floor(Math.sqrt((width * height) / ASKED)))
  for (let y = 0; y + 1 < height; y += step) {
    for (let x = 0; x + 1 < width; x += step) {
      // Rows run down: with green up, the rise to the right changes downward as the rise upward changes to the left.
      const red = slope(x, y + 1, 0) - slope(x, y, 0)
      const green = slope(x + 1, y, 1) - slope(x, y, 1)
      agree += red * green
      all += Math.abs(red * green)
    }
  }
  if (Math.abs(agree) < UNSURE * all || all === 0) return undefined
  return agree < 0 ? 'up' : 'down'
}
/** Texels that are asked, at most. */
const ASKED = 65_536
/** Share of what the slopes say that must speak for one side. */
const UNSURE = 0.05

/**
 * Pictures of normals in tangent space as one picture in the space of the mesh, on its first UV set: which way the
 * surface faces, from −1 to 1. Parts without a picture have the mesh's own normals.
 * @param make finds tangents as whoever made the pictures did (MikkTSpace)
 * @param size texels along each side of a tile
 * @returns an EXR file
 */
export function normalsOfPictures(
  texels: Texels,
  mesh: Mesh,
  sources: readonly NormalSource[],
  size: number,
  make: TangentMaker,
  compressor: Compressor,
  progress?: (share: number) => void,
): Uint8Array {
  const of = picturesOfTriangles(mesh, sources)
  const frames = new Map<number, { uvs: Float32Array; tangents: Float32Array }>()
  for (const { uvSet = 0 } of sources) if (!frames.has(uvSet)) frames.set(uvSet, frameOf(mesh, uvSet, make))
  const sheet = new TileSheet(texels, mesh, size, [false, false, false], size >> 6)
  sheet.paint((tile, from, to) => {
    const { texel, points } = rasterizeTile(texels, mesh, size, tile, sheet.tiling, from, to)
    const values = [0, 1, 2].map(() => new Float32Array(points.count))
    const out = [0, 0, 0]
    for (let i = 0; i < points.count; i++) {
      const t = points.triangle[i]!
      const source = of[t]
      const frame = source && frames.get(source.uvSet ?? 0)!
      turn(mesh, t, points.u[i]!, points.v[i]!, source, frame, out)
      values.forEach((column, k) => (column[i] = out[k]!))
    }
    return { texel, values }
  }, progress)
  return sheet.exr(0, 3, 'half', compressor)
}

/** The UVs of a set, and the tangents along them: four numbers for each corner of each triangle. */
function frameOf(mesh: Mesh, uvSet: number, make: TangentMaker): { uvs: Float32Array; tangents: Float32Array } {
  const uvs = uvsOfSet(mesh, uvSet)
  return { uvs, tangents: cornerTangents({ ...mesh, uvs }, make) }
}

/** Which way the surface faces at a point of a triangle. */
function turn(
  { normals, indices }: Mesh,
  t: number,
  u: number,
  v: number,
  source: NormalSource | undefined,
  frame: { uvs: Float32Array; tangents: Float32Array } | undefined,
  out: number[],
): void {
  const a = indices[t * 3]!
  const b = indices[t * 3 + 1]!
  const c = indices[t * 3 + 2]!
  const between = (values: Float32Array, p: number, q: number, r: number): number =>
    values[p]! * (1 - u - v) + values[q]! * u + values[r]! * v
  const n = [0, 1, 2].map(k => between(normals, a * 3 + k, b * 3 + k, c * 3 + k))
  unit(n)
  n.forEach((x, k) => (out[k] = x))
  if (!source || !frame) return
  const { tangents, uvs } = frame
  const along = [0, 1, 2].map(k => between(tangents, t * 12 + k, t * 12 + 4 + k, t * 12 + 8 + k))
  const side = tangents[t * 12 + 3]! < 0 ? -1 : 1
  const d = n.reduce((sum, x, k) => sum + x * along[k]!, 0)
  n.forEach((x, k) => (along[k]! -= x * d))
  unit(along)
  const up = [
    (n[1]! * along[2]! - n[2]! * along[1]!) * side,
    (n[2]! * along[0]! - n[0]! * along[2]!) * side,
    (n[0]! * along[1]! - n[1]! * along[0]!) * side,
  ]
  const [x, y, z] = sampled(source, between(uvs, a * 2, b * 2, c * 2), between(uvs, a * 2 + 1, b * 2 + 1, c * 2 + 1))
  for (let k = 0; k < 3; k++) out[k] = along[k]! * x + up[k]! * y + n[k]! * z
  unit(out)
}

function unit(n: number[]): void {
  const length = Math.hypot(n[0]!, n[1]!, n[2]!) || 1
  for (let k = 0; k < 3; k++) n[k]! /= length
}

/** A normal of a picture, green up. */
function sampled(source: NormalSource, u: number, v: number): [number, number, number] {
  const { strength = 1, green } = source
  const laid = readLaid(source, u, v)
  const read = (lane: number): number => laid(lane) * 2 - 1
  return [read(0) * strength, read(1) * strength * (green === 'down' ? -1 : 1), read(2)]
}
