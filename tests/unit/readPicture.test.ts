import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { narrowed } from '../../app/stage/readPicture'

describe('a picture that is narrowed', () => {
  it('has the mean of each square of pixels, channel by channel and row by row', () => {
    const row = (...reds: number[]): number[] => reds.flatMap(red => [red, red * 2, 7, 255])
    const wide = Float32Array.from([...row(1, 3, 10, 20), ...row(5, 7, 30, 40), ...row(0, 0, 8, 8), ...row(4, 0, 0, 0)])
    expect([...narrowed(wide, 4, 2)]).toEqual([...row(4, 25), ...row(1, 4)])
  })
  it('is as it was where it is narrowed by nothing, and keeps its mean whatever it is narrowed by', () => {
    const sizes = fc.record({ finer: fc.integer({ min: 1, max: 4 }), width: fc.integer({ min: 1, max: 5 }) })
    fc.assert(
      fc.property(sizes, fc.integer({ min: 1, max: 4 }), fc.nat(), ({ finer, width }, height, seed) => {
        const count = width * height * finer ** 2 * 4
        const wide = Float32Array.from({ length: count }, (_, i) => (Math.imul(i + seed, 2654435761) >>> 0) % 256)
        const out = narrowed(wide, width * finer, finer)
        expect(out).toHaveLength(width * height * 4)
        if (finer === 1) expect(out).toEqual(wide)
        const mean = (of: Float32Array): number => of.reduce((sum, x) => sum + x, 0) / of.length
        expect(mean(out)).toBeCloseTo(mean(wide), 3)
      }),
    )
  })
})
