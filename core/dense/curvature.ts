import type { Compressor } from '../bake/compress'
import { rasterizeTile } from '../bake/raster'
import type { Picture } from '../evaluate/pictures'
import { surfaceValue } from '../evaluate/surfaceReading'
import type { Texels } from '../kernels/texels'
import type { Mesh } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'
import { valueAt } from '../mesh/sample'
import { TileSheet } from './tileSheet'

/** Numbers of a texel while its neighbors are looked at: where it is, and which way it faces. */
const NUMBERS = 6
/** No patch: a texel that no island covers. */
const BARE = -1

/** One tile, texel by texel: six numbers, and the patch. */
class TileOf {
  readonly numbers: Float32Array
  readonly patch: Int32Array
  private readonly slopes = new Float64Array(NUMBERS * 2)

  constructor(readonly size: number) {
    this.numbers = new Float32Array(size * size * NUMBERS)
    this.patch = new Int32Array(size * size).fill(BARE)
  }

  /** The neighbor of a texel in its own patch, `step` texels on; itself where there is none. */
  private beside(at: number, step: number, room: number): number {
    if (room <= 0) return at
    const to = at + step
    return this.patch[to] === this.patch[at] ? to : at
  }

  /** What six numbers change by from one texel to another, into a row of the slopes. */
  private difference(from: number, to: number, row: number): void {
    for (let k = 0; k < NUMBERS; k++)
      this.slopes[row * NUMBERS + k] = this.numbers[to * NUMBERS + k]! - this.numbers[from * NUMBERS + k]!
  }

  /**
   * Mean curvature at a texel, in 1/m, positive where the surface bulges: half the trace of the shape operator, from
   * the first and second fundamental forms (do Carmo, Differential Geometry of Curves and Surfaces, 3.3) along the two
   * directions of the picture.
   */
  curvature(at: number): number {
    const { size, slopes } = this
    const x = at % size
    const y = (at - x) / size
    this.difference(this.beside(at, -1, x), this.beside(at, 1, size - 1 - x), 0)
    this.difference(this.beside(at, -size, y), this.beside(at, size, size - 1 - y), 1)
    const dot = (a: number, b: number): number =>
      slopes[a]! * slopes[b]! + slopes[a + 1]! * slopes[b + 1]! + slopes[a + 2]! * slopes[b + 2]!
    const [pu, nu, pv, nv] = [0, 3, NUMBERS, NUMBERS + 3] as const
    const [uu, uv, vv] = [dot(pu, pu), dot(pu, pv), dot(pv, pv)]
    const area = uu * vv - uv * uv
    if (area <= 1e-12 * uu * vv) return 0
    const twist = (dot(nu, pv) + dot(nv, pu)) / 2
    return (dot(nu, pu) * vv - 2 * twist * uv + dot(nv, pv) * uu) / (2 * area)
  }
}

/** How far a curvature stands out at a radius: 2q / (1 + q²) as geometry maps have it, and 1 from there on. */
const standsOut = (q: number): number => (q >= 1 ? 1 : (2 * q) / (1 + q * q))

/**
 * Small convexity and concavity from a picture of normals in the space of the mesh (see `normalsOfPictures`), on its
 * first UV set: what the mesh itself is too coarse to have. Values as in the geometry maps of those names, 0 to 1; a
 * ball of the radius has 1.
 * @param radius in meters
 * @returns two EXR files
 * @throws Error with a sentence where the mesh has no UVs
 */
export function curvatureOfNormals(
  texels: Texels,
  { mesh, parts }: { mesh: Mesh; parts: Pick<Parts, 'patchOfTriangle'> },
  normals: Picture,
  radius: number,
  compressor: Compressor,
  progress?: (share: number) => void,
): { convexity: Uint8Array; concavity: Uint8Array } {
  if (!mesh.uvs) throw new Error('The mesh has no UVs, on which a picture of normals could lie.')
  const size = Math.max(1, Math.round(normals.width / (normals.covers?.[2] ?? 1)))
  const sheet = new TileSheet(texels, mesh, size, [false, false], size >> 6)
  let tile: { number: number; of: TileOf } | undefined
  sheet.paint((number, from, to) => {
    const rasterized = (first: number, end: number): ReturnType<typeof rasterizeTile> =>
      rasterizeTile(texels, mesh, size, number, sheet.tiling, first, end)
    if (tile?.number !== number) tile = { number, of: tileOf({ mesh, parts }, normals, size, rasterized(0, size)) }
    const { of } = tile
    const { texel } = rasterized(from, to)
    const values = [new Float32Array(texel.length), new Float32Array(texel.length)]
    texel.forEach((t, i) => {
      const q = of.curvature(from * size + t) * radius
      values[q > 0 ? 0 : 1]![i] = standsOut(Math.abs(q))
    })
    return { texel, values }
  }, progress)
  return { convexity: sheet.exr(0, 1, 'half', compressor), concavity: sheet.exr(1, 1, 'half', compressor) }
}

/** The places and normals of a whole tile, which its rows look at beyond themselves. */
function tileOf(
  { mesh, parts }: { mesh: Mesh; parts: Pick<Parts, 'patchOfTriangle'> },
  normals: Picture,
  size: number,
  { texel, points }: ReturnType<typeof rasterizeTile>,
): TileOf {
  const of = new TileOf(size)
  const { positions, indices } = mesh
  const uvs = mesh.uvs!
  const n = [0, 0, 0]
  for (let i = 0; i < points.count; i++) {
    const at = texel[i]!
    const t = points.triangle[i]!
    const between = (values: Float32Array, stride: number, k: number): number =>
      valueAt(indices, values, stride, k, t, points.u[i]!, points.v[i]!)
    const [s, r] = [between(uvs, 2, 0), between(uvs, 2, 1)]
    for (let k = 0; k < 3; k++) {
      of.numbers[at * NUMBERS + k] = between(positions, 3, k)
      n[k] = surfaceValue(normals, k, s, r)
    }
    const length = Math.hypot(n[0]!, n[1]!, n[2]!) || 1
    for (let k = 0; k < 3; k++) of.numbers[at * NUMBERS + 3 + k] = n[k]! / length
    of.patch[at] = parts.patchOfTriangle[t]!
  }
  return of
}
