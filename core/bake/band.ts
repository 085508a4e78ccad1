import { encodeSrgb } from '../color/convert'
import type { MeshTables } from '../evaluate/tables'
import type { Adler, Compressor } from './compress'
import { dilate } from './dilate'
import { EXR_LINES, exrBand, exrHead } from './exr'
import type { Lanes } from './lanes'
import type { MapSpec, PictureFormat } from './maps'
import { pngBand, pngEnds } from './png'
import { rasterizeRows, type Tiling } from './raster'

export class Stopped extends Error {
  constructor() { super('Stopped.') }
}

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

/** Points that are evaluated at a time, and texels of a band: what bounds the memory of a bake. */
const POINTS = 1 << 19, TEXELS = 1 << 20

/** First rows of the bands of a picture: whole blocks of EXR lines, about a million texels each. */
export function bandsOf(size: number): number[] {
  const rows = Math.max(EXR_LINES, Math.floor(TEXELS / size / EXR_LINES) * EXR_LINES)
  return Array.from({ length: Math.ceil(size / rows) }, (_, i) => i * rows)
}

/** A tile to be baked: its triangles and its lanes by name. */
export interface TileJob { tables: MeshTables, tiling: Tiling, tile: number, triangles: Uint32Array, lanes: Lanes, names: readonly string[] }

/** Time spent, by a clock in milliseconds: in the look's program, and in all. */
export interface Spent { clock: () => number, program: number, all: number, texels: number }

/**
 * Values of all lanes over the texels of some rows: islands grown by `dilation` rings, what is beyond at 0.
 * @param from first row, and `to` the one behind the last
 * @returns one column for each lane
 */
export function bakeRows(job: TileJob, { size, dilation, samples }: Pick<PictureSettings, 'size' | 'dilation' | 'samples'>, from: number, to: number, stopped?: () => boolean, spent?: Spent): Float32Array[] {
  const begun = spent?.clock() ?? 0, first = Math.max(0, from - dilation), last = Math.min(size, to + dilation), texels = (last - first) * size
  const lanes = job.names.map(() => new Float32Array(texels)), covered = new Uint8Array(texels)
  // (1) The rows and those around them whose islands may grow into them, some at a time.
  const step = Math.max(1, Math.floor(POINTS / size / samples ** 2))
  for (let y = first; y < last; y += step) {
    if (stopped?.()) throw new Stopped()
    const end = Math.min(last, y + step), { texel, points } = rasterizeRows(job.tables.mesh, job, size * samples, y * samples, end * samples)
    const asked = spent?.clock() ?? 0, columns = job.lanes.at(points, stopped)
    if (spent) spent.program += spent.clock() - asked
    const base = (y - first) * size
    if (samples === 1) {
      for (let i = 0; i < texel.length; i++) covered[base + texel[i]!] = 1
      columns.forEach((column, k) => {
        const lane = lanes[k]!
        for (let i = 0; i < texel.length; i++) lane[base + texel[i]!] = column[i]!
      })
      continue
    }
    const counts = new Uint8Array((end - y) * size), fine = size * samples
    const at = texel.map((q) => {
      const x = q % fine
      return Math.floor((q - x) / fine / samples) * size + Math.floor(x / samples)
    })
    for (const q of at) counts[q]!++
    columns.forEach((column, k) => {
      const lane = lanes[k]!
      for (let i = 0; i < at.length; i++) lane[base + at[i]!]! += column[i]! / counts[at[i]!]!
    })
    for (let q = 0; q < counts.length; q++) covered[base + q] = Number(counts[q]! > 0)
  }
  // (2) Islands grown, and what was only needed for that dropped.
  dilate(lanes, size, covered, dilation)
  const normal = ['normal.x', 'normal.y', 'normal.z'].map(name => lanes[job.names.indexOf(name)])
  if (normal.every(lane => lane !== undefined)) {
    const [x, y, z] = normal as [Float32Array, Float32Array, Float32Array]
    for (let i = 0; i < texels; i++) {
      const length = Math.hypot(x[i]!, y[i]!, z[i]!)
      if (length > 0) {
        x[i]! /= length
        y[i]! /= length
        z[i]! /= length
      }
      else z[i] = 1
    }
  }
  if (spent) {
    spent.all += spent.clock() - begun
    spent.texels += (to - from) * size
  }
  return lanes.map(lane => lane.subarray((from - first) * size, (to - first) * size))
}

/** Compressed rows of one picture: what goes into its file, and what the file's ends have to know of it. */
export interface PictureBand { bytes: Uint8Array, note: BandNote }
export type BandNote = { adler: Adler } | { sizes: number[] }

const letters = ['R', 'G', 'B', 'A'], names = (count: number): string[] => count === 1 ? ['Y'] : count === 2 ? ['X', 'Y'] : letters.slice(0, count)

/** A number from 0 to 1 for a texel, the same in any order of work. */
function grain(texel: number, lane: number): number {
  let h = Math.imul(texel ^ Math.imul(lane + 1, 0x9e3779b1), 0x85ebca6b)
  h = Math.imul(h ^ (h >>> 15), 0xc2b2ae35)
  return ((h ^ (h >>> 16)) >>> 0) / 2 ** 32
}

const STEPS = 4096
const SRGB = Float32Array.from({ length: STEPS + 2 }, (_, i) => encodeSrgb(i / STEPS))
/** The transfer function of sRGB; between 1/64 and 1 from a table, right to 4e-7. */
function encoded(x: number): number {
  if (!(x > 0)) return 0
  if (x >= 1) return 1
  if (x < 0.015625) return encodeSrgb(x)
  const at = x * STEPS, i = at | 0
  return SRGB[i]! + (SRGB[i + 1]! - SRGB[i]!) * (at - i)
}

/**
 * Rows of a picture as its file has them.
 * @param columns the picture's own lanes
 * @param row number of the first row in the picture
 * @param largest see {@link Lanes}: 8 and 16 bits hold a height as 0.5 + height / (2 largest), an emission divided by it, a normal as 0.5 + n / 2
 */
export function encodeRows(spec: MapSpec, columns: readonly Float32Array[], { size, format, dither }: PictureSettings, largest: Lanes['largest'], row: number, compressor: Compressor): PictureBand {
  const channels = columns.length as 1 | 2 | 3 | 4
  if (format === 'half' || format === 'float') {
    // Normals are written from 0 to 1 here too, since every reader of a normal picture expects that.
    const stored = columns.map((c, k) => spec.lanes[k]!.startsWith('normal.') ? c.map(x => x * 0.5 + 0.5) : c), { bytes, sizes } = exrBand(stored, { width: size, channels: names(channels), pixel: format }, row, compressor)
    return { bytes, note: { sizes } }
  }
  const depth = format === 'png8' ? 8 : 16, top = 2 ** depth - 1, count = columns[0]!.length, out = depth === 8 ? new Uint8Array(count * channels) : new Uint16Array(count * channels)
  columns.forEach((column, k) => {
    const lane = spec.lanes[k]!, curved = spec.space === 'srgb' && k < 3, scale = lane === 'height' ? 0.5 / largest.height : lane.startsWith('normal.') ? 0.5 : lane.startsWith('emission') ? 1 / largest.emission : 1
    const shift = lane === 'height' || lane.startsWith('normal.') ? 0.5 : 0, grains = dither && depth === 8
    for (let i = 0; i < count; i++) {
      let x = column[i]! * scale + shift
      x = curved ? encoded(x) : x > 0 ? x < 1 ? x : 1 : 0
      const stored = x * top + (grains ? grain(row * size + i, k) : 0.5)
      out[i * channels + k] = stored > top ? top : stored
    }
  })
  const { chunk, adler } = pngBand(out, { size, channels, depth }, compressor)
  return { bytes: chunk, note: { adler } }
}

/** What stands before and behind the bands of a picture in its file; `notes` are those of all its bands in order. */
export function pictureEnds(spec: MapSpec, { size, format }: PictureSettings, notes: readonly BandNote[]): [head: Uint8Array, tail: Uint8Array] {
  const channels = spec.lanes.length as 1 | 2 | 3 | 4
  if (format === 'half' || format === 'float') return [exrHead({ width: size, height: size, channels: names(channels), pixel: format }, notes.flatMap(n => 'sizes' in n ? n.sizes : [])), new Uint8Array(0)]
  return pngEnds({ size, channels, depth: format === 'png8' ? 8 : 16, space: spec.space }, notes.map(n => 'adler' in n ? n.adler : { sum: 1, length: 0 }))
}

