import { LaidLook, type FoundOfSurface } from '../evaluate/laidLook'
import type { MeshTables } from '../evaluate/tables'
import type { Look } from '../graph/look'
import type { Kernels } from '../kernels/kernels'
import type { ParamReader, Program } from '../program/lower'
import { bakeRows, bandsOf, encodeRows, pictureEnds, type PictureBand, type PictureSettings, type Spent } from './band'
import { joined, type Compressor } from './compress'
import { fingerprint, lanesOf, type Lanes } from './lanes'
import type { MapSpec } from './maps'
import { tilingOf, trianglesOf, type TileTriangles, type Tiling } from './raster'

/** Bakes one look on one mesh, band by band: whoever has the same mesh and look can do any of the bands. */
export class Baker {
  readonly tiling: Tiling
  readonly laid: LaidLook
  readonly spent: Spent
  private readonly ready = new Map<string, { lanes: Lanes; names: string[] }>()
  private ofTile?: TileTriangles & { tile: number }

  /**
   * @param tangents four numbers for each corner of each triangle; needed only where a map has a normal
   * @param found what another baker of the same look and mesh has found
   */
  constructor(
    private readonly kernels: Kernels,
    readonly tables: MeshTables,
    look: Look,
    private readonly tangents?: Float32Array,
    clock?: () => number,
    found?: FoundOfSurface,
  ) {
    this.spent = { clock: clock ?? (() => 0), compressing: 0, all: 0, texels: 0 }
    if (clock) kernels.watch.clock = clock
    this.tiling = tilingOf(tables.mesh)
    this.laid = LaidLook.of(kernels, tables, look, found)
  }

  get program(): Program {
    return this.laid.program
  }
  get read(): ParamReader {
    return this.laid.read
  }

  /** What a picture depends on besides the mesh and its size, as text. */
  keyOf(spec: MapSpec): string {
    return fingerprint(this.program, this.read, spec.lanes)
  }

  private lanesOf(specs: readonly MapSpec[]): { lanes: Lanes; names: string[] } {
    const names = [...new Set(specs.flatMap(s => s.lanes))].sort()
    const key = names.join(' ')
    let known = this.ready.get(key)
    if (!known) this.ready.set(key, (known = { names, lanes: lanesOf(this.laid, names, this.tangents) }))
    return known
  }

  /** What 8 and 16 bits of a height and an emission stand for; see {@link encodeRows}. */
  largestOf(specs: readonly MapSpec[]): Lanes['largest'] {
    return this.lanesOf(specs).lanes.largest
  }

  /** Finds what some pictures need of the whole surface: then it is among what the laid look has found. */
  makeReady(specs: readonly MapSpec[]): void {
    this.lanesOf(specs)
  }

  /** One band of some pictures, which share what their lanes have in common. */
  band(
    tile: number,
    specs: readonly MapSpec[],
    settings: PictureSettings,
    index: number,
    compressor: Compressor,
  ): PictureBand[] {
    const {
      spent,
      kernels: { texels },
    } = this
    const { lanes, names } = this.lanesOf(specs)
    const rows = bandsOf(settings.size)
    const from = rows[index]!
    const to = rows[index + 1] ?? settings.size
    const mark = texels.mark()
    if (this.ofTile?.tile !== tile) this.ofTile = { tile, ...trianglesOf(this.tables.mesh, this.tiling, tile) }
    const { at, count } = bakeRows(
      { texels, tables: this.tables, tiling: this.tiling, ...this.ofTile, lanes, names },
      settings,
      from,
      to,
      spent,
    )
    const begun = spent.clock()
    const timed = (compress: (bytes: Uint8Array) => Uint8Array) => (bytes: Uint8Array) => {
      const asked = spent.clock()
      const packed = compress(bytes)
      spent.compressing += spent.clock() - asked
      return packed
    }
    const watched = { blocks: timed(compressor.blocks), zlib: timed(compressor.zlib) }
    const bands = specs.map(spec =>
      encodeRows(
        texels,
        spec,
        { at: spec.lanes.map(lane => at[names.indexOf(lane)]!), count },
        settings,
        lanes.largest,
        from,
        watched,
      ),
    )
    texels.release(mark)
    spent.all += spent.clock() - begun
    return bands
  }

  /** Whole picture files of a tile, on this thread. */
  pictures(tile: number, specs: readonly MapSpec[], settings: PictureSettings, compressor: Compressor): Uint8Array[] {
    const bands = bandsOf(settings.size).map((_, i) => this.band(tile, specs, settings, i, compressor))
    return specs.map((spec, k) => {
      const [head, tail] = pictureEnds(
        spec,
        settings,
        bands.map(b => b[k]!.note),
      )
      return joined(head, ...bands.map(b => b[k]!.bytes), tail)
    })
  }
}
