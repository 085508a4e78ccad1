import type { Ref } from '../program/ops'
import type { Seer } from './footprints'
import type { RepeatedEvaluator, Site } from './repeated'
import { ditherAt, GROUND, GROUND_PART, pointsAt, SEEN_WORDS, type ChannelPicture } from './visible'

/** Points that are evaluated before somebody else may have a turn. */
const TURN = 2048

/** Pixels along a side of the squares in which pictures are lit. */
export const TILE = 16

/** Some rows of a picture, and what is seen there. */
export interface Rows {
  width: number
  /** The number of the first row in the whole picture, from below. */
  first: number
  /** What is seen, row by row; behind it what is seen where that lets through, and so on. See {@link SEEN_WORDS}. */
  layers: readonly Uint32Array[]
  /**
   * Which of several pictures with shifted pixels this is: it decides which layer is seen where one lets some light
   * through.
   */
  sample: number
}

/** What is painted into: for each picture four numbers per pixel, row by row. */
export type Painted = Record<ChannelPicture, Float32Array>

/** A picture of the same state with fewer pixels: pixel (x, y) of it is pixel (x * step, y * step) here. */
export interface Coarse {
  step: number
  width: number
  first: number
  painted: Partial<Painted>
}

/** Squares of a picture with something in them: from a row of them on, so many to a row. */
export interface Marked {
  first: number
  across: number
  marks: Uint8Array
}

/** Paints the channels of a look at every pixel of some rows where the surface is seen. */
export class Painter {
  private readonly sites: { pixels: Uint32Array; site: Site }[] = []
  /** What is seen from behind at sites that are painted more than once. */
  private readonly behind = new WeakMap<Site, Uint8Array>()
  /** Pixels where the surface is seen. */
  readonly visible: number
  /** Of each row, how many of its pixels see the surface. */
  readonly visibleIn: Uint32Array

  /**
   * @param partOfTriangle of the mesh that is seen
   * @param seer who looks at the surface; without one, a pixel is its middle alone, and normals are not turned to it
   */
  constructor(
    private readonly rows: Rows,
    private readonly partOfTriangle: ArrayLike<number>,
    private readonly seer?: Seer,
  ) {
    const [front] = rows.layers as [Uint32Array]
    const { width } = rows
    const count = front.length / SEEN_WORDS
    this.visibleIn = new Uint32Array(count / width)
    const seen = new Uint32Array(count)
    let visible = 0
    for (let row = 0; row < this.visibleIn.length; row++) {
      const before = visible
      for (let i = row * width; i < (row + 1) * width; i++) {
        const word = front[i * SEEN_WORDS]!
        if (word !== 0 && word !== GROUND) seen[visible++] = i
      }
      this.visibleIn[row] = visible - before
    }
    this.visible = visible
    for (let from = 0; from < visible; from += TURN) {
      const pixels = seen.slice(from, Math.min(visible, from + TURN))
      this.sites.push({ pixels, site: { points: pointsAt(front, pixels, seer?.widths) } })
    }
  }

  /**
   * Paints, and stops for a turn of others now and then.
   * @param lanes the values behind the lanes of the pictures, as the evaluator's roots; undefined where a lane has none
   * @param opacity the number of the lane that says how much a point covers, where that is to be seen
   * @returns the pictures, through the last value of the generator
   */
  *paint(
    evaluator: RepeatedEvaluator,
    pictures: readonly ChannelPicture[],
    lanes: readonly (Ref | undefined)[],
    opacity?: number,
    coarse?: Coarse,
  ): Generator<void, Partial<Painted>> {
    const {
      rows: { layers },
    } = this
    const [front] = layers as [Uint32Array]
    const count = front.length / SEEN_WORDS
    const painted: Partial<Painted> = {}
    for (const name of pictures) painted[name] = new Float32Array(count * 4)
    this.writeSeen(front, painted.relief!)
    const roots = lanes.filter(ref => ref !== undefined)
    for (const { pixels, site } of this.sites) {
      const left = coarse && layers.length === 1 ? this.takeOver(pixels, coarse, painted) : pixels
      const own = left === pixels ? site : { points: pointsAt(front, left, this.seer?.widths) }
      this.evaluate(evaluator, own, left, pictures, lanes, roots.length, painted)
      if (opacity !== undefined) this.lookThrough(evaluator, left, pictures, lanes, roots.length, opacity, painted)
      yield
    }
    return painted
  }

  private evaluate(
    evaluator: RepeatedEvaluator,
    site: Site,
    pixels: Uint32Array,
    pictures: readonly ChannelPicture[],
    lanes: readonly (Ref | undefined)[],
    roots: number,
    painted: Partial<Painted>,
  ): void {
    if (!pixels.length) return
    const columns = Array.from({ length: roots }, () => new Float32Array(pixels.length))
    evaluator.evaluate(site, columns)
    let next = 0
    lanes.forEach((ref, lane) => {
      if (ref === undefined) return
      const column = columns[next++]!
      const into = painted[pictures[lane >> 2]!]!
      for (let i = 0; i < pixels.length; i++) into[pixels[i]! * 4 + (lane % 4)] = column[i]!
    })
    if (painted.facing) this.turn(site, pixels, painted.facing)
  }

  /** Turns normals to who looks where the surface is seen from behind. */
  private turn(site: Site, pixels: Uint32Array, facing: Float32Array): void {
    if (!this.seer) return
    let behind = this.behind.get(site)
    if (!behind) this.behind.set(site, (behind = this.seer.behind(site.points)))
    for (let i = 0; i < pixels.length; i++) {
      if (!behind[i]) continue
      for (let k = 0; k < 3; k++) facing[pixels[i]! * 4 + k]! *= -1
    }
  }

  /** Pixels that another picture has already: copied from there. @returns the others */
  private takeOver(pixels: Uint32Array, coarse: Coarse, painted: Partial<Painted>): Uint32Array {
    const {
      rows: { width, first },
    } = this
    const { step, painted: from } = coarse
    const rowsThere = from.relief!.length / 4 / coarse.width
    const left: number[] = []
    for (const pixel of pixels) {
      const x = pixel % width
      const y = first + Math.floor(pixel / width)
      const row = y / step - coarse.first
      const at = row * coarse.width + x / step
      const there = x % step === 0 && y % step === 0 && row >= 0 && row < rowsThere && from.relief![at * 4 + 3]! > 0
      if (!there) {
        left.push(pixel)
        continue
      }
      const depth = painted.relief![pixel * 4 + 1]!
      for (const [name, into] of Object.entries(painted))
        into.set(from[name as ChannelPicture]!.subarray(at * 4, at * 4 + 4), pixel * 4)
      painted.relief![pixel * 4 + 1] = depth
    }
    return Uint32Array.from(left)
  }

  /** Where a point lets light through and chance will have it, what lies behind takes its place. */
  private lookThrough(
    evaluator: RepeatedEvaluator,
    pixels: Uint32Array,
    pictures: readonly ChannelPicture[],
    lanes: readonly (Ref | undefined)[],
    roots: number,
    opacity: number,
    painted: Partial<Painted>,
  ): void {
    const {
      rows: { layers, width, first, sample },
    } = this
    const into = painted[pictures[opacity >> 2]!]!
    let open = pixels
    for (let depth = 1; open.length; depth++) {
      // A dither of its own for each layer: else what lies behind would be hidden or seen together with what is before
      // it.
      const passes = open.filter(
        pixel =>
          ditherAt((pixel % width) + 57 * (depth - 1), first + Math.floor(pixel / width), sample) >=
          into[pixel * 4 + (opacity % 4)]!,
      )
      const behind = layers[depth]
      for (const pixel of passes) {
        for (const picture of Object.values(painted)) picture.fill(0, pixel * 4, pixel * 4 + 4)
        if (behind) this.writeSeenAt(behind, pixel, painted.relief!)
      }
      if (!behind) return
      open = passes.filter(pixel => painted.relief![pixel * 4 + 3]! > 0)
      this.evaluate(
        evaluator,
        { points: pointsAt(behind, open, this.seer?.widths) },
        open,
        pictures,
        lanes,
        roots,
        painted,
      )
    }
  }

  /** Writes how far away what is seen at each pixel is, and which part it is. */
  private writeSeen(seen: Uint32Array, relief: Float32Array): void {
    for (let i = 0; i < seen.length / SEEN_WORDS; i++) this.writeSeenAt(seen, i, relief)
  }

  private writeSeenAt(seen: Uint32Array, pixel: number, relief: Float32Array): void {
    const word = seen[pixel * SEEN_WORDS]!
    if (word === 0) return
    bits[0] = seen[pixel * SEEN_WORDS + 3]!
    relief[pixel * 4 + 1] = number[0]!
    relief[pixel * 4 + 3] = word === GROUND ? GROUND_PART : this.partOfTriangle[word - 1]! + 1
  }

  /**
   * Which squares of {@link TILE} pixels have something to be lit, counted over the whole picture: 1 where the mesh is
   * seen in or right beside it, 2 where the ground is, 3 where both are.
   */
  get tiles(): Marked {
    return (this.marked ??= this.findTiles())
  }
  private marked?: Marked

  private findTiles(): Marked {
    const {
      rows: {
        width,
        first,
        layers: [front],
      },
    } = this
    const rows = front!.length / SEEN_WORDS / width
    const across = Math.ceil(width / TILE)
    const firstTile = Math.floor(Math.max(0, first - 1) / TILE)
    const marks = new Uint8Array(across * (Math.floor((first + rows) / TILE) - firstTile + 1))
    for (let y = 0; y < rows; y++) {
      for (let x = 0; x < width; x++) {
        const word = front![(y * width + x) * SEEN_WORDS]!
        if (word === 0) continue
        const mark = word === GROUND ? 2 : 1
        const low = Math.floor(Math.max(0, first + y - 1) / TILE) - firstTile
        const high = Math.floor((first + y + 1) / TILE) - firstTile
        const left = Math.floor(Math.max(0, x - 1) / TILE)
        const right = Math.min(across - 1, Math.floor((x + 1) / TILE))
        for (const row of [low, high]) for (const column of [left, right]) marks[row * across + column]! |= mark
      }
    }
    return { first: firstTile, across, marks }
  }
}

const bits = new Uint32Array(1)
const number = new Float32Array(bits.buffer)
