import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { inGray } from '#core/color/gray'
import { fromLab, toLab, type Triple } from '#core/color/convert'
import { combine, sharedInWords } from '#core/compare/combine'
import { keptSheetSchema, type KeptSheet } from '#core/compare/keptSheet'
import { paletteDistance } from '#core/compare/earthMover'
import { sheetNumbers } from '#core/compare/numbers'
import { rangeOf, rollTiles, sweepables, sweepableAt, sweepTiles, sweepValues } from '#core/compare/sheet'
import { setParam } from '#core/graph/edit'
import { pinsFrom, withPins } from '#core/compare/takeParts'
import { paramOf } from '#core/graph/kinds'
import { pinnedAgain } from '#core/graph/pins'
import { nodeOf } from '#core/graph/find'
import { reseed } from '#core/graph/recipe'
import { LaidLook } from '#core/evaluate/laidLook'
import { samplePartPoints } from '#core/mesh/sample'
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
  it('goes through a number in even ratios where both ends are above zero', () => {
    const sweep = { node: 'coverage1', param: 'share', from: 1, to: 64, count: 4 }
    expect(sweepValues(look, { ...sweep, ratios: true }).map(v => v.value)).toEqual([1, 4, 16, 64])
    expect(sweepValues(look, { ...sweep, from: 0, ratios: true }).map(v => v.value)).toEqual([
      0,
      expect.closeTo(21.333, 3),
      expect.closeTo(42.667, 3),
      64,
    ])
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
  it('tell of each step that is on which share of the surface it covers', () => {
    const layered = lookOf(
      {
        base: ['finish'],
        moss: ['finish'],
        draw: ['partRandom', { seed: 2 }],
        drawn: ['layer'],
        whole: ['layer', { mask: 1 }],
        off: ['layer', { mask: 1 }],
      },
      [
        'base.finish > drawn.below',
        'moss.finish > drawn.above',
        'draw.value > drawn.mask',
        'drawn.finish > whole.below',
        'moss.finish > whole.above',
        'whole.finish > off.below',
        'moss.finish > off.above',
        'off.finish > result.finish',
      ],
    )
    const { steps } = sheetNumbers(kernels, tablesOf(row(400)), {
      ...layered,
      nodes: layered.nodes.map(n => (n.id === 'layer3' ? { ...n, off: true as const } : n)),
    })
    expect(steps.map(s => s.title)).toEqual(['Layer', 'Layer'])
    expect(steps[0]!.share).toBeCloseTo(0.5, 1)
    expect(steps[1]!.share).toBe(1)
  })
})

describe('parts of one look in another', () => {
  const tables = tablesOf(row(12))
  const drawn = lookOf(
    {
      draw: ['partRandom', { seed: 4 }],
      balanced: ['partRandom', { seed: 5, how: 'count' }],
      groups: ['partRandom', { seed: 6, level: 'group' }],
      palette: ['palette', { seed: 7 }],
      finish: ['finish'],
    },
    ['palette.color > finish.baseColor', 'draw.value > finish.roughness', 'finish.finish > result.finish'],
  )
  const nodes = ['partRandom1', 'partRandom2', 'palette1'] as const
  const valuesOf = (l: typeof look) => {
    const laid = LaidLook.of(kernels, tables, l)
    const refs = nodes.map(id => (laid.program.outputs.get(`${id}/value`) as { value: number }).value)
    return laid.sampler(refs, 4096)(samplePartPoints(tables.mesh, tables.parts, 1))
  }
  it('are drawn there as they were, and all others as before', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 500 }),
        fc.subarray([...Array(12).keys()], { minLength: 1 }),
        (by, parts) => {
          const source = reseed(drawn, by)
          const keys = parts.map(p => tables.parts.parts[p]!.key)
          const mixed = withPins(drawn, pinsFrom(kernels, tables, source, drawn, keys))
          const [ours, theirs, made] = [valuesOf(drawn), valuesOf(source), valuesOf(mixed)]
          nodes.forEach((_, n) => {
            for (let part = 0; part < 12; part++)
              expect(made[n]![part]).toBeCloseTo((parts.includes(part) ? theirs : ours)[n]![part]!, 6)
          })
          // What is there already needs no pin.
          expect(pinsFrom(kernels, tables, source, mixed, keys)).toEqual([])
        },
      ),
      { numRuns: 40 },
    ))
  it('are pinned once, whatever they were pinned to before', () => {
    const { key } = tables.parts.parts[0]!
    const first = withPins(drawn, [{ node: 'partRandom1', pin: { part: key, value: 0.25 } }])
    const second = withPins(first, [
      { node: 'partRandom1', pin: { part: key, value: 0.75 } },
      { node: 'gone', pin: { part: key, value: 0 } },
    ])
    expect(read(second, 'partRandom1', 'pins')).toEqual([{ part: key, value: 0.75 }])
    expect(valuesOf(second)[0]![0]).toBeCloseTo(0.75, 6)
  })
  it('go on to the next color where they are pointed at again, and are rolled once more in a draw', () => {
    const again = (l: typeof look, id: string) => {
      const pins = pinnedAgain(nodeOf(l, id)!, 'pins', 'a')
      return { pins, look: setParam(l, id, 'pins', pins) }
    }
    let at = { pins: [] as unknown[], look: drawn }
    const colors = [0, 0.5, 1, 0].map(() => (at = again(at.look, 'palette1')).pins)
    expect(colors).toEqual([0, 0.5, 1, 0].map(value => [{ part: 'a', value }]))
    const rolled = again(again(drawn, 'partRandom1').look, 'partRandom1')
    expect(rolled.pins).toEqual([{ part: 'a', roll: 2 }])
  })
})

describe('two states in one', () => {
  const tables = tablesOf(row(12))
  const state = lookOf(
    {
      tint: ['partRandom', { seed: 4 }],
      gloss: ['partRandom', { seed: 5 }],
      worn: ['partRandom', { seed: 6 }],
      idle: ['partRandom', { seed: 7 }],
      hue: ['varyColor', { color: [0.5, 0.2, 0.1], hue: 200 }],
      above: ['finish', { baseColor: [0.1, 0.1, 0.1], roughness: 0.9 }],
      below: ['finish', { metalness: 0.2 }],
      layer: ['layer'],
    },
    [
      'tint.value > hue.hueBy',
      'hue.color > below.baseColor',
      'gloss.value > below.roughness',
      'worn.value > layer.mask',
      'below.finish > layer.below',
      'above.finish > layer.above',
      'layer.finish > result.finish',
    ],
  )
  const seeds = (l: typeof look) => l.nodes.filter(n => n.kind === 'partRandom').map(n => n.params.seed)
  const [first, second] = [reseed(state, 1), reseed(state, 2)]
  const [mine, theirs] = [seeds(first), seeds(second)]
  it('have what drives a channel alone from the one, all else from the other, and tell what drives both', () => {
    const made = combine(kernels, tables, first, second, ['roughness'])
    // The mask lays down color and roughness, so it cannot be both.
    expect(seeds(made.look)).toEqual([theirs[0], mine[1], mine[2], theirs[3]])
    expect(made.shared.map(s => s.title)).toEqual(['Part random: Seed'])
    expect(made.shared[0]!.channels).toEqual(['baseColor', 'metalness', 'roughness'])
    expect(sharedInWords(made)).toEqual(['Part random: Seed drives Base color, Metalness, Roughness.'])
    const color = combine(kernels, tables, first, second, ['baseColor'])
    expect(seeds(color.look)).toEqual([mine[0], theirs[1], mine[2], theirs[3]])
  })
  it('stay the second one for a channel that nothing drives, and refuse other nodes or wires', () => {
    expect(combine(kernels, tables, first, second, ['height'])).toEqual({ look: second, shared: [] })
    const other = { ...second, wires: second.wires.slice(1) }
    expect(() => combine(kernels, tables, first, other, ['roughness'])).toThrow(/differ in nodes or wires/)
  })
})

describe('a sheet that is kept', () => {
  const kept: KeptSheet = {
    look: 'a',
    kind: 'sweep',
    order: 'away',
    numbers: true,
    reference: 'moss.png',
    rolls: { count: 16, first: 1, only: ['tint', 'gloss'] },
    columns: { node: 'coverage1', param: 'share', from: 0, to: 1, count: 4, ratios: true },
    rows: null,
    states: null,
    turns: 2,
    verdicts: { 'roll 3': 'starred' },
    seen: { from: [0, 1, 2], at: [0, 0, 0], rig: 'overcast', turn: -30, view: 'finished' },
  }
  it('from before, with one draw that is rolled alone or none, is read as a list', () => {
    const from = (only: unknown) => keptSheetSchema.parse({ ...kept, rolls: { ...kept.rolls, only } }).rolls.only
    expect([from('tint'), from('')]).toEqual([['tint'], []])
  })
  it('is read as it was written, and refused where it is something else', () => {
    expect(keptSheetSchema.parse(JSON.parse(JSON.stringify(kept)))).toEqual(kept)
    const wrong = [
      { ...kept, kind: 'rolled' },
      { ...kept, rolls: { ...kept.rolls, count: 65 } },
      { ...kept, verdicts: { 'roll 3': 'liked' } },
      { ...kept, seen: { ...kept.seen, rig: 'own' } },
      { ...kept, more: 1 },
    ]
    for (const w of wrong) expect(keptSheetSchema.safeParse(w).success).toBe(false)
  })
})

describe('a picture in gray', () => {
  it('has the luminance that it had, channel by channel, and its own alpha', () => {
    const shown = inGray(Uint8ClampedArray.of(255, 0, 0, 9, 0, 255, 0, 8, 0, 0, 255, 7, 90, 90, 90, 6))
    // Encoded shares of BT.709: of red, green and blue alone.
    expect([...shown]).toEqual([127, 127, 127, 9, 220, 220, 220, 8, 76, 76, 76, 7, 90, 90, 90, 6])
  })
})
