type Numbers = Float32Array | Uint32Array | Uint8Array

/** A list of numbers that grows: a plain array would take eight bytes for each and stop at 2^27. */
export class Growing<T extends Numbers> {
  private data: T
  length = 0

  /** @param kind of array that the numbers are kept in */
  constructor(private readonly kind: new (length: number) => T) {
    this.data = new kind(64)
  }

  push(value: number): void {
    if (this.length === this.data.length) {
      const more = new this.kind(this.data.length * 2)
      more.set(this.data)
      this.data = more
    }
    this.data[this.length++] = value
  }

  at(i: number): number {
    return this.data[i]!
  }

  /** The numbers that there are, as an array of their own. */
  take(): T {
    return this.data.slice(0, this.length) as T
  }
}

/**
 * Numbers rows of four integers in the order in which they come for the first time. A map by text would hold no more
 * than 2^24 of them, and take ten times the room.
 */
export class RowNumbers {
  /** By hash, or in the next free place where one is taken: the number of a row and 1, or 0. Half stay free. */
  private places = new Uint32Array(64)
  private rows = new Int32Array(32 * 4)
  count = 0

  /** The number of a row, from 0; that of one which was not there yet is what `count` was. */
  of(a: number, b: number, c: number, d: number): number {
    if (this.count * 2 === this.places.length) this.widen()
    const { rows, places } = this
    let place = this.placeOf(a, b, c, d)
    for (; places[place]; place = (place + 1) % places.length) {
      const at = (places[place]! - 1) * 4
      if (rows[at] === a && rows[at + 1] === b && rows[at + 2] === c && rows[at + 3] === d) return at / 4
    }
    const at = this.count * 4
    rows[at] = a
    rows[at + 1] = b
    rows[at + 2] = c
    rows[at + 3] = d
    places[place] = ++this.count
    return this.count - 1
  }

  /** Mixed as in MurmurHash3 (Austin Appleby): multiplied by its odd constants, shifted onto itself. */
  private placeOf(a: number, b: number, c: number, d: number): number {
    let mixed = Math.imul(a, 0xcc9e2d51) ^ Math.imul(b, 0x1b873593)
    mixed = Math.imul(mixed ^ (mixed >>> 15), 0x85ebca6b) ^ Math.imul(c, 0xcc9e2d51)
    mixed = Math.imul(mixed ^ (mixed >>> 13), 0xc2b2ae35) ^ Math.imul(d, 0x1b873593)
    mixed = Math.imul(mixed ^ (mixed >>> 16), 0x85ebca6b)
    return ((mixed ^ (mixed >>> 13)) >>> 0) % this.places.length
  }

  /** Twice as many places, of which every row takes one anew. */
  private widen(): void {
    const rows = new Int32Array(this.rows.length * 2)
    rows.set(this.rows)
    this.rows = rows
    this.places = new Uint32Array(this.places.length * 2)
    const { places } = this
    for (let row = 0; row < this.count; row++) {
      const at = row * 4
      let place = this.placeOf(rows[at]!, rows[at + 1]!, rows[at + 2]!, rows[at + 3]!)
      while (places[place]) place = (place + 1) % places.length
      places[place] = row + 1
    }
  }
}
