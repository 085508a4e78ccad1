import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { atRanks, quantiles } from '#core/evaluate/quantiles'

const float = fc.float({ noNaN: true })

describe('numbers at ranks', () => {
  it('are those that sorting finds, of any floats', () => {
    fc.assert(
      fc.property(
        fc.float32Array({ noNaN: true, minLength: 1, maxLength: 300 }),
        fc.array(fc.nat()),
        (values, some) => {
          const ranks = some.map(x => x % values.length)
          const sorted = values.slice().sort()
          expect(atRanks(values, ranks)).toEqual(ranks.map(rank => sorted[rank]))
        },
      ),
      { numRuns: 300 },
    )
  })
})

describe('quantiles', () => {
  /** Numbers and a mask over them, few and many, many of them alike. */
  const masked = fc
    .tuple(fc.array(fc.tuple(fc.oneof(float, fc.constantFrom(0, 1, -1)), fc.boolean()), { minLength: 1 }), fc.nat(900))
    .map(([some, times]) => {
      const all = Array.from({ length: Math.max(some.length, times * 4) }, (_, i) => some[i % some.length]!)
      return { of: Float32Array.from(all, a => a[0]), where: Float32Array.from(all, a => Number(a[1])) }
    })

  it('leave that share of the points above them, as far as points that are alike can be told apart', () => {
    const finite = masked.filter(({ of }) => of.every(x => Math.abs(x) < 1e30))
    fc.assert(
      fc.property(finite, fc.double({ min: 0, max: 1, noNaN: true }), ({ of, where }, share) => {
        const inside = [...of].filter((_, i) => where[i])
        const [limit] = quantiles(of, where, [share])
        if (!inside.length) {
          expect(limit).toBe(0)
          return
        }
        const wanted = Math.round(share * inside.length)
        expect(inside.filter(x => x > limit!).length).toBeLessThanOrEqual(wanted)
        expect(inside.filter(x => x >= limit!).length).toBeGreaterThanOrEqual(wanted)
      }),
      { numRuns: 300 },
    )
  })

  it('are halfway between two points, just beyond the ends, and found together as alone', () => {
    const many = Float32Array.from({ length: 20_000 }, (_, i) => ((i * 1237) % 20_000) - 1000)
    for (const of of [many, many.filter(x => x < -900)]) {
      const least = Math.min(...of)
      const most = Math.max(...of)
      const all = new Float32Array(of.length).fill(1)
      const shares = [0, 0.25, 0.5, 1, 2, -1]
      const together = quantiles(of, all, shares)
      const middle = (share: number): number => most - share * of.length + 0.5
      expect(together[1]).toBe(middle(0.25))
      expect(together[2]).toBe(middle(0.5))
      expect(together[0]! - most).toBeCloseTo(1e-5 * Math.abs(most), 2)
      expect(together[0]).toBeGreaterThan(most)
      expect(together[3]).toBeLessThan(least)
      expect(together.slice(4)).toEqual([together[3], together[0]])
      expect(shares.flatMap(share => quantiles(of, all, [share]))).toEqual(together)
    }
  })
})
