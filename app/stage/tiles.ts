import { BufferAttribute, BufferGeometry } from 'three'
import { TILE, type Marked } from '#core/evaluate/painter'
import { leftOf, type Place } from './groundArea'

/** The squares of a picture that have anything to be lit: what lies outside of them costs nothing. */
export class Tiles {
  private readonly across: number
  private readonly marks: Uint8Array

  constructor(
    private readonly width: number,
    private readonly height: number,
  ) {
    this.across = Math.ceil(width / TILE)
    this.marks = new Uint8Array(this.across * Math.ceil(height / TILE))
  }

  /** Adds what was found in some rows of tiles: 1 where there is surface, 2 where there is ground. */
  add({ first, marks }: Marked): void {
    const at = first * this.across
    marks.forEach((mark, i) => {
      if (at + i < this.marks.length) this.marks[at + i]! |= mark
    })
  }

  /** Triangles over the squares with surface. */
  surface(): BufferGeometry {
    return this.geometry(i => (this.marks[i]! & 1) > 0)
  }
  /**
   * Over those with surface, and as many around as given.
   * @param within a convex area, counterclockwise: of those without surface, what lies outside of it does not count
   */
  near(around: number, within: readonly Place[] = []): BufferGeometry {
    const { across, marks } = this
    return this.geometry(i => {
      if (!marks[i]) return false
      if (marks[i]! & 1) return true
      const corners = this.cornersOf(i)
      if (within.some((b, k) => corners.every(c => leftOf(within.at(k - 1)!, b, c) < 0))) return false
      const x = i % across
      const y = Math.floor(i / across)
      for (let dy = -around; dy <= around; dy++) {
        for (let dx = -around; dx <= around; dx++) {
          const inside = x + dx >= 0 && x + dx < across && y + dy >= 0
          if (inside && (marks[(y + dy) * across + x + dx] ?? 0) & 1) return true
        }
      }
      return false
    })
  }

  private cornersOf(tile: number): [Place, Place, Place, Place] {
    const { across, width, height } = this
    const x = (tile % across) * TILE
    const y = Math.floor(tile / across) * TILE
    const [l, r, b, t] = [
      (x / width) * 2 - 1,
      (Math.min(width, x + TILE) / width) * 2 - 1,
      (y / height) * 2 - 1,
      (Math.min(height, y + TILE) / height) * 2 - 1,
    ]
    return [
      [l, b],
      [r, b],
      [r, t],
      [l, t],
    ]
  }

  private geometry(wanted: (tile: number) => boolean): BufferGeometry {
    const places: number[] = []
    this.marks.forEach((_, i) => {
      if (!wanted(i)) return
      const [a, b, c, d] = this.cornersOf(i)
      for (const [x, y] of [a, b, c, a, c, d]) places.push(x, y, 0)
    })
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(Float32Array.from(places), 3))
    geometry.setAttribute('normal', new BufferAttribute(new Float32Array(places.length), 3))
    return geometry
  }
}
