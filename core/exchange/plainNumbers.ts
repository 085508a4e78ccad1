import { isBlank } from './lines'

const [PLUS, MINUS, POINT, SLASH, ZERO, NINE] = [43, 45, 46, 47, 48, 57]
/** An E, of either size: a small one but for one bit. */
const EXPONENT = 101
const SMALL = 32
/** Up to these, ten times a number and a digit more is a whole number without rounding. */
const MOST = 9e14
const MOST_OF_32_BITS = 2e8
/** Powers of ten that are numbers without rounding. */
const POWERS = Float64Array.from({ length: 23 }, (_, i) => Number(`1e${i}`))

const isDigit = (byte: number): boolean => byte >= ZERO && byte <= NINE

/**
 * Reads numbers of a text from its bytes, where they are written as in nearly every file; that takes a small part of
 * the time in which the bytes become text, the text words, and the words numbers.
 */
export class PlainNumbers {
  /** The byte that is read next. */
  private at = 0
  private end = 0

  constructor(private readonly bytes: Uint8Array) {}

  /**
   * Reads decimal numbers with blanks between them, as `Number` does: a whole number of up to 53 bits times or over a
   * power of ten up to 22 is rounded once (W. D. Clinger, How to Read Floating Point Numbers Accurately, 1990).
   * @param from the first byte
   * @param end the one after the last
   * @param into as many numbers as may come
   * @returns how many came; -1 where anything else stands there, or there are more
   */
  decimals(from: number, end: number, into: Float64Array): number {
    this.at = from
    this.end = end
    for (let count = 0; ; count++) {
      this.skipBlanks()
      if (this.at === end) return count
      if (count === into.length) return -1
      into[count] = this.decimal()
      if (!this.endsWord()) return -1
    }
  }

  /**
   * Reads words of up to three whole numbers, with slashes between them, and blanks between the words.
   * @param into three numbers to a word, for as many words as may come; 0 where one is left out
   * @returns how many words came; -1 where anything else stands there, or there are more
   */
  triples(from: number, end: number, into: Int32Array): number {
    this.at = from
    this.end = end
    for (let count = 0; ; count++) {
      this.skipBlanks()
      if (this.at === end) return count
      if (count * 3 === into.length) return -1
      into.fill(0, count * 3, count * 3 + 3)
      for (let k = 0; k < 3; k++) {
        into[count * 3 + k] = this.whole()
        if (this.at === end || this.bytes[this.at] !== SLASH) break
        this.at++
      }
      if (!this.endsWord()) return -1
    }
  }

  private skipBlanks(): void {
    while (this.at < this.end && isBlank(this.bytes[this.at]!)) this.at++
  }

  /** Does a word end here? It does not where something came that is no number. */
  private endsWord(): boolean {
    return this.at === this.end || (this.at < this.end && isBlank(this.bytes[this.at]!))
  }

  /** Nothing that comes next is a number. */
  private giveUp(): number {
    this.at = this.end + 1
    return NaN
  }

  private takeSign(): boolean {
    const byte = this.bytes[this.at]!
    if (this.at < this.end && (byte === MINUS || byte === PLUS)) this.at++
    return byte === MINUS
  }

  /** A whole number of up to 31 bits that is not zero; 0 where none stands. */
  private whole(): number {
    const first = this.at
    const isNegative = this.takeSign()
    let value = 0
    for (; this.at < this.end && isDigit(this.bytes[this.at]!); this.at++) {
      if (value > MOST_OF_32_BITS) return this.giveUp()
      value = value * 10 + this.bytes[this.at]! - ZERO
    }
    // A zero that is written names nothing, and neither does a lone sign.
    if (value === 0 && this.at > first) return this.giveUp()
    return isNegative ? -value : value
  }

  private decimal(): number {
    const { bytes, end } = this
    const isNegative = this.takeSign()
    let digits = 0
    let value = 0
    let point = -1
    for (; this.at < end; this.at++) {
      const byte = bytes[this.at]!
      if (isDigit(byte)) {
        if (value > MOST) return this.giveUp()
        value = value * 10 + byte - ZERO
        digits++
      } else if (byte === POINT && point < 0) point = digits
      else break
    }
    if (!digits) return this.giveUp()
    let power = point < 0 ? 0 : point - digits
    if (this.at < end && (bytes[this.at]! | SMALL) === EXPONENT) power += this.exponent()
    if (power > 22 || power < -22) return this.giveUp()
    const size = power < 0 ? value / POWERS[-power]! : value * POWERS[power]!
    return isNegative ? -size : size
  }

  private exponent(): number {
    this.at++
    const isNegative = this.takeSign()
    const first = this.at
    let value = 0
    for (; this.at < this.end && isDigit(this.bytes[this.at]!); this.at++)
      value = Math.min(1000, value * 10 + this.bytes[this.at]! - ZERO)
    if (this.at === first) this.giveUp()
    return isNegative ? -value : value
  }
}
