import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fromLab, toLab, type Triple } from '#core/color/convert'
import { paletteDistance } from '#core/compare/earthMover'
import { sheetNumbers } from '#core/compare/numbers'
import { rangeOf, rollTiles, sweepables, sweepableAt, sweepTiles, sweepValues, variantTiles } from '#core/compare/sheet'
import { setParam } from '#core/graph/edit'
import { paramOf } from '#core/graph/kinds'
import { nodeOf } from '#core/graph/ports'
import { keepVariant } from '#core/graph/variants'
import { kernels, lookOf, row, tablesOf } from '../helpers'

const look = lookOf(
  {
    draw: ['partRandom', { seed: 4 }],
    cover: ['coverage', { share: 30 }],
    finish: ['finish', { baseColor: [0.5, 0.1, 0.1], roughness: 0.4 }],
  },
  ['draw.value > cover.value', 'cover.value > finish.metalness', 'finish.finish > result.finish'],
)
const read = (l: typeof look, id: string, name: string) => paramOf(nodeOf(l, id)!, name)

describe('a sheet of rolls', () => {
  it('begins with the look as it is, and every roll has other seeds', () => {
    const tiles = rollTiles(4, 5)
    expect(tiles.map(t => t.title)).toEqual(['As it is', 'Roll 5', 'Roll 6', 'Roll 7'])
    expect(tiles.map(t => read(t.of(look), 'partRandom1', 'seed'))).toEqual([
      4,
      4 + 5 * 7919,
      4 + 6 * 7919,
      4 + 7 * 7919,
    ])
    expect(read(rollTiles(2, 5, new Set(['other']))[1]!.of(look), 'partRandom1', 'seed')).toBe(4)
  })
})

describe('a sheet of variants', () => {
  it('has the look as it is, and set as each variant says', () => {
    const kept = keepVariant(setParam(look, 'partRandom1', 'seed', 77), 'Rainy')
    const tiles = variantTiles(setParam(kept, 'partRandom1', 'seed', 4))
    expect(tiles.map(t => t.title)).toEqual(['As it is', 'Rainy'])
    expect(tiles.map(t => read(t.of(look), 'partRandom1', 'seed'))).toEqual([4, 77])
  })
})

describe('a sweep', () => {
  it('goes through a number in even steps, row by row', () => {
    const tiles = sweepTiles(
      look,
      { node: 'coverage1', param: 'share', from: 0, to: 100, count: 3 },
      { node: 'finish1', param: 'roughness', from: 0.2, to: 0.8, count: 2 },
    )
    expect(tiles.map(t => [read(t.of(look), 'coverage1', 'share'), read(t.of(look), 'finish1', 'roughness')])).toEqual([
      [0, 0.2],
      [50, 0.2],
      [100, 0.2],
      [0, 0.8],
      [50, 0.8],
      [100, 0.8],
    ])
    expect(tiles[4]!.title).toBe('Share 50 % · Roughness 0.8')
    expect(new Set(tiles.map(t => t.id)).size).toBe(6)
  })
  it('stays within what a setting allows, and shows no value twice', () => {
    const values = sweepValues(look, { node: 'coverage1', param: 'share', from: -50, to: 250, count: 4 })
    expect(values.map(v => v.value)).toEqual([0, 50, 100])
  })
  it('goes through colors in steps that are even to the eye', () => {
    const ends = { from: [0.5, 0.1, 0.1] as Triple, to: [0.1, 0.2, 0.6] as Triple }
    const values = sweepValues(look, { node: 'finish1', param: 'baseColor', ...ends, count: 5 })
    const labs = values.map(v => toLab(v.value as Triple))
    const steps = labs.slice(1).map((c, i) => Math.hypot(...c.map((x, k) => x - labs[i]![k]!)))
    for (const step of steps) expect(step).toBeCloseTo(steps[0]!, 6)
    ;(values[0]!.value as Triple).forEach((x, k) => expect(x).toBeCloseTo(ends.from[k]!, 6))
    ;(values[4]!.value as Triple).forEach((x, k) => expect(x).toBeCloseTo(ends.to[k]!, 6))
  })
  it('goes through all that a choice can be', () => {
    const { declaration } = sweepableAt(look, 'coverage1', 'over')
    const values = sweepValues(look, { node: 'coverage1', param: 'over', from: 0, to: 1, count: 9 })
    expect(values.map(v => v.value)).toEqual(declaration.type === 'choice' ? declaration.options.map(o => o.value) : [])
  })
  it('knows inputs that are open, and not those with a wire', () => {
    const titles = sweepables(look).map(s => `${s.node}.${s.param}`)
    expect(titles).toContain('finish1.roughness')
    expect(titles).toContain('finish1.baseColor')
    expect(titles).not.toContain('finish1.metalness')
    expect(titles).not.toContain('partRandom1.seed')
  })
  it('begins with a range that the setting allows', () => {
    for (const s of sweepables(look)) {
      if (s.declaration.type !== 'number') continue
      const { from, to } = rangeOf(s)
      expect(Number(from)).toBeLessThan(Number(to))
      expect(Number(from)).toBeGreaterThanOrEqual(s.declaration.min)
      expect(Number(to)).toBeLessThanOrEqual(s.declaration.max)
    }
  })
  it('says what is wrong with a setting', () => {
    const at = (node: string, param: string) => () => sweepableAt(look, node, param)
    expect(at('nobody', 'share')).toThrow('The look has no node "nobody".')
    expect(at('coverage1', 'shares')).toThrow('The node "coverage1" has no setting "shares".')
    expect(at('finish1', 'metalness')).toThrow('The setting "metalness" of "finish1" is no open number')
  })
})

describe('the distance of two palettes', () => {
  const black = { color: [0, 0, 0] as Triple, share: 1 }
  const white = { color: [1, 1, 1] as Triple, share: 1 }
  it('is that in OKLab where both have one color', () => {
    expect(paletteDistance([black], [black])).toBe(0)
    expect(paletteDistance([black], [white])).toBeCloseTo(1, 4)
  })
  it('moves as little as it can: what both have stays', () => {
    const mixed = (share: number) => [
      { ...black, share },
      { ...white, share: 1 - share },
    ]
    expect(paletteDistance(mixed(0.8), mixed(0.5))).toBeCloseTo(0.3, 4)
    expect(paletteDistance(mixed(0.2), [black])).toBeCloseTo(0.8, 4)
  })
  const palette = fc
    .array(
      fc.record({
        c: fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true })),
        w: fc.integer({ min: 1, max: 20 }),
      }),
      { minLength: 1, maxLength: 5 },
    )
    .map(list => {
      const total = list.reduce((s, p) => s + p.w, 0)
      return list.map(({ c: [r, b], w }) => ({ color: [r, 0.3, b] as Triple, share: w / total }))
    })
  it('is the same both ways, nothing to itself, and no detour is shorter', () => {
    fc.assert(
      fc.property(palette, palette, palette, (a, b, c) => {
        expect(paletteDistance(a, b)).toBeCloseTo(paletteDistance(b, a), 6)
        expect(paletteDistance(a, a)).toBeCloseTo(0, 6)
        expect(paletteDistance(a, c)).toBeLessThanOrEqual(paletteDistance(a, b) + paletteDistance(b, c) + 1e-6)
      }),
      { numRuns: 100 },
    )
  })
  it('does not take the nearest pair where that makes the rest dear', () => {
    const grays = (...lightness: number[]) =>
      lightness.map(l => ({ color: fromLab([l, 0, 0]), share: 1 / lightness.length }))
    expect(paletteDistance(grays(0.1, 0.5), grays(0.35, 0.9))).toBeCloseTo((0.25 + 0.4) / 2, 5)
  })
  it('of equal shares is the best of all pairings', () => {
    const equal = (rows: [number, number][]) =>
      rows.map(([r, b]) => ({ color: [r, 0.3, b] as Triple, share: 1 / rows.length }))
    // Doubles would nearly all be next to the ends.
    const share = fc.integer({ min: 0, max: 100 }).map(x => x / 100)
    const three = fc.array(fc.tuple(share, share), { minLength: 3, maxLength: 3 })
    fc.assert(
      fc.property(three, three, (p, q) => {
        const [a, b] = [equal(p as [number, number][]), equal(q as [number, number][])]
        const far = (i: number, j: number) => {
          const [x, y] = [toLab(a[i]!.color), toLab(b[j]!.color)]
          return Math.hypot(...x.map((v, k) => v - y[k]!))
        }
        const orders = [
          [0, 1, 2],
          [0, 2, 1],
          [1, 0, 2],
          [1, 2, 0],
          [2, 0, 1],
          [2, 1, 0],
        ]
        const best = Math.min(...orders.map(o => o.reduce((s, j, i) => s + far(i, j) / 3, 0)))
        expect(paletteDistance(a, b)).toBeCloseTo(best, 6)
      }),
      { numRuns: 300 },
    )
  })
})

describe('the numbers of a look', () => {
  const tables = tablesOf(row(6))
  const plain = lookOf({ finish: ['finish', { baseColor: [0.5, 0.1, 0.1], roughness: 0.4 }] }, [
    'finish.finish > result.finish',
  ])
  it('of one finish spread nowhere, and its palette is its color', () => {
    const numbers = sheetNumbers(kernels, tables, plain, [{ color: [0.5, 0.1, 0.1], share: 1 }])
    expect(numbers).toMatchObject({ hue: 0, palette: [{ share: 1 }] })
    for (const name of ['lightness', 'chroma', 'roughness', 'away'] as const) expect(numbers[name]).toBeCloseTo(0, 3)
    numbers.palette[0]!.color.forEach((x, k) => expect(x).toBeCloseTo([0.5, 0.1, 0.1][k]!, 4))
  })
  it('grow with what is drawn: the standard deviation of an even draw of roughness', () => {
    const many = tablesOf(row(400))
    const drawn = lookOf({ draw: ['partRandom', { seed: 2 }], finish: ['finish'] }, [
      'draw.value > finish.roughness',
      'finish.finish > result.finish',
    ])
    const { roughness, lightness } = sheetNumbers(kernels, many, drawn)
    // Of values spread evenly from 0 to 1: the root of 1/12.
    expect(roughness).toBeCloseTo(Math.sqrt(1 / 12), 1)
    expect(lightness).toBeCloseTo(0, 4)
  })
})
