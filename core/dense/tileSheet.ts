import type { Compressor } from '../bake/compress'
import { dilate, ringRoom } from '../bake/dilate'
import { exrFile } from '../bake/exr'
import { tileOrigin, tilingOf, type Tiling } from '../bake/raster'
import type { Texels } from '../kernels/texels'
import type { Mesh } from '../mesh/mesh'

/** Texels of some rows of a tile, counted from the first of the rows, and a column of values for each channel. */
export interface PaintedRows {
  texel: Uint32Array
  values: readonly Float32Array[]
}

/** Rows that are painted between two words of progress. */
const BAND = 32

/**
 * All tiles of a UV layout side by side, with a column of numbers for each channel: painted tile by tile, written as
 * EXR.
 */
export class TileSheet {
  readonly tiling: Tiling
  private readonly columns: Float32Array[]
  private readonly left: number
  private readonly top: number
  private readonly across: number
  private readonly down: number

  /**
   * @param size texels along each side of a tile
   * @param identities for each column of numbers whether they are names rather than amounts: those are never mixed
   * @param dilation how far values grow beyond the islands, in texels
   */
  constructor(
    private readonly texels: Texels,
    mesh: Mesh,
    private readonly size: number,
    private readonly identities: readonly boolean[],
    private readonly dilation: number,
  ) {
    this.tiling = tilingOf(mesh)
    // The smallest rectangle of tiles that holds all of them, v downward.
    const origins = this.tiling.repeats ? [[0, 0] as const] : this.tiling.tiles.map(tileOrigin)
    this.left = Math.min(...origins.map(o => o[0]))
    this.top = Math.min(...origins.map(o => o[1]))
    this.across = Math.max(...origins.map(o => o[0])) - this.left + 1
    this.down = Math.max(...origins.map(o => o[1])) - this.top + 1
    this.columns = identities.map(() => new Float32Array(this.across * this.down * size * size))
  }

  /** @param rows what some rows of a tile hold */
  paint(rows: (tile: number, from: number, to: number) => PaintedRows, progress?: (share: number) => void): void {
    const { tiling, size, texels } = this
    const tiles = tiling.repeats ? [1001] : tiling.tiles
    tiles.forEach((tile, number) => {
      const covered = new Uint8Array(size * size)
      const own = this.columns.map(() => new Float32Array(size * size))
      for (let from = 0; from < size; from += BAND) {
        const { texel, values } = rows(tile, from, Math.min(size, from + BAND))
        values.forEach((column, k) => {
          for (let i = 0; i < column.length; i++) own[k]![from * size + texel[i]!] = column[i]!
        })
        for (const t of texel) covered[from * size + t] = 1
        progress?.((number + from / size) / tiles.length)
      }
      const mixed = own.filter((_, k) => !this.identities[k])
      grow(texels, mixed, covered, size, this.dilation)
      if (mixed.length < own.length)
        copyOutward(
          own.filter((_, k) => this.identities[k]),
          covered,
          size,
          this.dilation,
        )
      const origin = tiling.repeats ? [0, 0] : tileOrigin(tile)
      const left = (origin[0]! - this.left) * size
      const top = (origin[1]! - this.top) * size
      own.forEach((column, k) => lay(column, this.columns[k]!, size, this.across * size, left, top))
    })
  }

  /** Some of the columns, one or three, as an EXR file that lies on its tiles. */
  exr(first: number, channels: number, pixel: 'half' | 'float', compressor: Compressor): Uint8Array {
    const { size } = this
    return exrFile(
      this.texels,
      this.columns.slice(first, first + channels),
      {
        width: this.across * size,
        height: this.down * size,
        channels: channels === 1 ? ['Y'] : ['R', 'G', 'B'],
        pixel,
        window: { left: this.left * size, top: this.top * size, tile: size },
      },
      compressor,
    )
  }
}

/** Lets values grow beyond the islands of a tile. */
function grow(
  texels: Texels,
  columns: readonly Float32Array[],
  covered: Uint8Array,
  size: number,
  rings: number,
): void {
  if (!rings || !columns.length) return
  const count = size * size
  const mark = texels.mark()
  const apart = count * 4 + 64
  const first = texels.take(apart * columns.length)
  const marks = texels.take(count)
  const ring = texels.take(ringRoom(size, size))
  columns.forEach((column, k) => texels.floats(first + k * apart, count).set(column))
  texels.bytes(marks, count).set(covered)
  dilate(texels, first, apart, columns.length, marks, ring, size, size, rings)
  columns.forEach((column, k) => column.set(texels.floats(first + k * apart, count)))
  texels.release(mark)
}

/** Lets values grow as {@link grow} does, each from one neighbor alone. */
function copyOutward(columns: readonly Float32Array[], covered: Uint8Array, size: number, rings: number): void {
  const known = covered.slice()
  let edge = Uint32Array.from(covered.keys()).filter(i => covered[i])
  for (let ring = 0; ring < rings && edge.length; ring++) {
    const next: number[] = []
    for (const i of edge) {
      const x = i % size
      for (const to of [x > 0 ? i - 1 : i, x < size - 1 ? i + 1 : i, i - size, i + size]) {
        if (known[to] !== 0) continue
        known[to] = 1
        for (const column of columns) column[to] = column[i]!
        next.push(to)
      }
    }
    edge = Uint32Array.from(next)
  }
}

/** Lays a tile into a wider picture. */
function lay(tile: Float32Array, into: Float32Array, size: number, width: number, left: number, top: number): void {
  for (let y = 0; y < size; y++) into.set(tile.subarray(y * size, (y + 1) * size), (top + y) * width + left)
}
