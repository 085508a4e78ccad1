import type { MeshTables } from '../evaluate/tables'
import { roomy, type Texels } from '../kernels/texels'
import type { Adler, Compressor } from './compress'
import { dilate, ringRoom } from './dilate'
import { EXR_LINES, exrBand, exrHead } from './exr'
import type { Lanes } from './lanes'
import { PICTURE_FORMATS, type MapSpec, type PictureFormat } from './maps'
import { pngBand, pngEnds } from './png'
import { layTriangles, rasterizeRows, type TileTriangles, type Tiling } from './raster'

export interface PictureSettings {
  /** Texels along each side. */
  size: number
  format: PictureFormat
  /** Rings of texels filled in beyond the islands' borders. */
  dilation: number
  /** Points along each side of a texel: 1, 2 or 4. */
  samples: number
  /** Spread the rounding of 8 bits, so that smooth ramps show no steps. */
  dither: boolean
}
export const PICTURE_DEFAULTS: PictureSettings = { size: 1024, format: 'png8', dilation: 8, samples: 1, dither: false }

/**
 * Points that are evaluated at a time, and texels of a band: what bounds the memory of a bake, and keeps most of it in
 * cache.
 */
const POINTS = 1 << 16
const TEXELS = 1 << 18

/** First rows of the bands of a picture: whole blocks of EXR lines, about a quarter of a million texels each. */
export function bandsOf(size: number): number[] {
  const rows = Math.max(EXR_LINES, Math.floor(TEXELS / size / EXR_LINES) * EXR_LINES)
  return Array.from({ length: Math.ceil(size / rows) }, (_, i) => i * rows)
}

/** A tile to be baked: its triangles and its lanes by name. */
export interface TileJob extends TileTriangles {
  texels: Texels
  tables: MeshTables
  tiling: Tiling
  tile: number
  lanes: Lanes
  names: readonly string[]
}

/** Time spent, by a clock: in compressing, and in all. Time in kernels is noted by {@link Kernels}. */
export interface Spent {
  clock: () => number
  compressing: number
  all: number
  texels: number
}

/** Lanes of a band in the memory of the kernels: addresses of their columns, and the texels of each. */
export interface Columns {
  at: number[]
  count: number
}

/**
 * For each column of a picture, how far the nearest empty texel within `reach` columns lies from one end of some rows:
 * 0 for a texel at the end itself, more than `reach` where there is none so near.
 */
function emptyNear(covered: Uint8Array, size: number, rows: number, fromBelow: boolean, reach: number): Uint8Array {
  const depth = new Uint8Array(size).fill(255)
  const out = new Uint8Array(size)
  for (let m = Math.min(rows, reach) - 1; m >= 0; m--) {
    const row = (fromBelow ? rows - 1 - m : m) * size
    for (let x = 0; x < size; x++) if (!covered[row + x]) depth[x] = m
  }
  for (let x = 0; x < size; x++) {
    let least = 255
    for (let q = Math.max(0, x - reach), end = Math.min(size - 1, x + reach); q <= end; q++)
      if (depth[q]! < least) least = depth[q]!
    out[x] = least
  }
  return out
}

/**
 * Values of all lanes over the texels of some rows: islands grown by `dilation` rings, what is beyond at 0.
 * @param from first row, and `to` the one behind the last
 * @returns columns in the kernels' memory, which the caller gives back
 */
export function bakeRows(
  job: TileJob,
  { size, dilation, samples }: Pick<PictureSettings, 'size' | 'dilation' | 'samples'>,
  from: number,
  to: number,
  spent?: Spent,
): Columns {
  const { texels, names } = job
  const begun = spent?.clock() ?? 0
  const first = Math.max(0, from - dilation)
  const last = Math.min(size, to + dilation)
  const count = (last - first) * size
  const apart = roomy(count * 4)
  const fine = size * samples
  const columns = texels.take(apart * names.length)
  const covered = texels.take(count)
  const ring = texels.take(ringRoom(size, last - first))
  const mark = texels.mark()
  const step = Math.max(1, Math.floor(POINTS / size / samples ** 2))
  const laying = layTriangles(texels, job.tables.mesh, job, fine, first * samples, last * samples, step * samples)
  const column = texels.take(laying.cells * 4)
  const is = texels.bytes(covered, count)
  const lane = names.map((_, k) => texels.floats(columns + k * apart, count))
  is.fill(0)
  texels.floats(columns, (apart / 4) * names.length).fill(0)
  /** @param within whether a texel that is covered needs its values; all do where it is left out */
  const fill = (top: number, bottom: number, within?: (x: number, y: number) => boolean): void => {
    for (let y = top; y < bottom; y += step) {
      const end = Math.min(bottom, y + step)
      const { texel, points } = rasterizeRows(texels, laying, fine, y * samples, end * samples)
      const base = (y - first) * size
      // (1) Which texel of the picture each point belongs to, and with what share.
      let shares: Float32Array | undefined
      if (samples > 1) {
        const counts = new Uint8Array((end - y) * size)
        for (let i = 0; i < texel.length; i++) {
          const q = texel[i]!
          const x = q % fine
          counts[(texel[i] = Math.floor((q - x) / fine / samples) * size + Math.floor(x / samples))]!++
        }
        shares = Float32Array.from(texel, q => 1 / counts[q]!)
      }
      texels.timed(run => run.mark(covered + base, laying.texel, points.count))
      // (2) Those whose values nobody will see are left out.
      let { count: kept } = points
      if (within) {
        kept = 0
        for (let i = 0; i < points.count; i++) {
          const q = texel[i]!
          const x = q % size
          if (!within(x, y + (q - x) / size)) continue
          texel[kept] = q
          points.triangle[kept] = points.triangle[i]!
          points.u[kept] = points.u[i]!
          points.v[kept] = points.v[i]!
          if (shares) shares[kept] = shares[i]!
          kept++
        }
      }
      const wanted =
        kept === points.count
          ? points
          : {
              count: kept,
              triangle: points.triangle.subarray(0, kept),
              u: points.u.subarray(0, kept),
              v: points.v.subarray(0, kept),
            }
      // (3) Values to their texels.
      job.lanes.at(wanted).forEach((v, k) => {
        if (shares) for (let i = 0; i < kept; i++) lane[k]![base + texel[i]!]! += v[i]! * shares[i]!
        else {
          texels.floats(column, kept).set(v)
          texels.timed(run => run.scatter(columns + k * apart + base * 4, laying.texel, column, kept))
        }
      })
    }
  }
  fill(from, to)
  // The rows around matter where their islands grow into these.
  if (first < from) {
    const near = emptyNear(is.subarray((from - first) * size, (to - first) * size), size, to - from, false, dilation)
    fill(first, from, (x, y) => near[x]! + from - y <= dilation)
  }
  if (last > to) {
    const near = emptyNear(is.subarray((from - first) * size, (to - first) * size), size, to - from, true, dilation)
    fill(to, last, (x, y) => near[x]! + y - to + 1 <= dilation)
  }
  dilate(texels, columns, apart, names.length, covered, ring, size, last - first, dilation)
  const at = names.map((_, k) => columns + k * apart + (from - first) * size * 4)
  const normal = ['normal.x', 'normal.y', 'normal.z'].map(name => names.indexOf(name))
  if (normal.every(k => k >= 0))
    texels.timed(run => run.unit(at[normal[0]!]!, at[normal[1]!]!, at[normal[2]!]!, (to - from) * size))
  texels.release(mark)
  if (spent) {
    spent.all += spent.clock() - begun
    spent.texels += (to - from) * size
  }
  return { at, count: (to - from) * size }
}

/** Compressed rows of one picture: what goes into its file, and what the file's ends have to know of it. */
export interface PictureBand {
  bytes: Uint8Array
  note: BandNote
}
export type BandNote = { adler: Adler } | { sizes: number[] }

const letters = ['R', 'G', 'B', 'A']
function names(count: number): string[] {
  if (count === 1) return ['Y']
  return count === 2 ? ['X', 'Y'] : letters.slice(0, count)
}
/** What a lane is multiplied by to lie within -0.5..0.5 or 0..1. */
function scaleOf(lane: string, largest: Lanes['largest']): number {
  if (lane === 'height') return 0.5 / largest.height
  if (lane.startsWith('normal.')) return 0.5
  return lane.startsWith('emission') ? 1 / largest.emission : 1
}

/**
 * Rows of a picture as its file has them.
 * @param columns the picture's own lanes
 * @param row number of the first row in the picture
 * @param largest see {@link Lanes}: 8 and 16 bits hold a height as 0.5 + height / (2 largest), an emission divided by
 * it, a normal as 0.5 + n / 2
 */
export function encodeRows(
  texels: Texels,
  spec: MapSpec,
  { at, count }: Columns,
  { size, format, dither }: PictureSettings,
  largest: Lanes['largest'],
  row: number,
  compressor: Compressor,
): PictureBand {
  const how = PICTURE_FORMATS[format]
  if (how.ending === 'exr') {
    // Normals are written from 0 to 1 here too, since every reader of a normal picture expects that.
    const mark = texels.mark()
    const stored = at.map((column, k) => {
      if (!spec.lanes[k]!.startsWith('normal.')) return column
      const own = texels.take(count * 4)
      texels.timed(run => run.affine(own, column, count, 0.5, 0.5))
      return own
    })
    const { bytes, sizes } = exrBand(
      texels,
      stored,
      count,
      { width: size, channels: names(at.length), pixel: how.pixel },
      row,
      compressor,
    )
    texels.release(mark)
    return { bytes, note: { sizes } }
  }
  const lanes = at.map((column, k) => {
    const lane = spec.lanes[k]!
    const scale = scaleOf(lane, largest)
    return {
      column,
      scale,
      shift: lane === 'height' || lane.startsWith('normal.') ? 0.5 : 0,
      curved: spec.space === 'srgb' && k < 3,
    }
  })
  const depth = how.bits
  const { chunk, adler } = pngBand(
    texels,
    lanes,
    count,
    { size, depth },
    compressor,
    dither && depth === 8 ? row * size : undefined,
  )
  return { bytes: chunk, note: { adler } }
}

/** What stands before and behind the bands of a picture in its file; `notes` are those of all its bands in order. */
export function pictureEnds(
  spec: MapSpec,
  { size, format }: PictureSettings,
  notes: readonly BandNote[],
): [head: Uint8Array, tail: Uint8Array] {
  const channels = spec.lanes.length as 1 | 2 | 3 | 4
  const how = PICTURE_FORMATS[format]
  if (how.ending === 'exr')
    return [
      exrHead(
        { width: size, height: size, channels: names(channels), pixel: how.pixel },
        notes.flatMap(n => ('sizes' in n ? n.sizes : [])),
      ),
      new Uint8Array(0),
    ]
  return pngEnds(
    { size, channels, depth: how.bits, space: spec.space },
    notes.map(n => ('adler' in n ? n.adler : { sum: 1, length: 0 })),
  )
}
