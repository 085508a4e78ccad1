import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { shortest } from '#core/exchange/shortest'

/** Every finite 32-bit float, by its bits, and those of everyday size as often. */
const float = fc.oneof(
  fc.float({ noNaN: true, noDefaultInfinity: true }),
  fc.integer({ min: -9_999_999, max: 9_999_999 }).map(n => Math.fround(n / 10_000)),
  fc.integer({ min: -3_000_000, max: 3_000_000 }),
)
const digitsOf = (text: string): number =>
  text.replace(/e.*$/, '').replaceAll(/[-.]/g, '').replace(/^0+/, '').replace(/0+$/, '').length

describe('the text of a float', () => {
  it('reads back as the same float, and six digits or more that are fewer do not', () => {
    fc.assert(
      fc.property(float, x => {
        const text = shortest(x)
        const digits = digitsOf(text)
        const fewer = Array.from({ length: Math.max(0, digits - 6) }, (_, i) =>
          Math.fround(Number(x.toPrecision(6 + i))),
        )
        // One assertion of twenty thousand texts is as dear as what makes them.
        return Object.is(Math.fround(Number(text)), x === 0 ? 0 : x) && digits <= 9 && !fewer.includes(x)
      }),
      { numRuns: 20_000 },
    )
  })

  it('is plain where it can be, of numbers that are no floats, too', () => {
    const told = [0, -0, 1, -2.5, 0.1, 1 / 3, 1e-4, 123456, 1234567, 16777216, 1e-7, -3e20].map(shortest)
    const texts = '0 0 1 -2.5 0.1 0.33333334 0.0001 123456 1234567 16777216 1e-7 -300000000000000000000'
    expect(told).toEqual(texts.split(' '))
  })
})
