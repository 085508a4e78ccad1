import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Workpiece } from '#core/evaluate/workpiece'
import { LoneEvaluator } from '#core/evaluate/loneEvaluator'
import { meshTables } from '#core/evaluate/tables'
import { toLch, type Triple } from '#core/color/convert'
import { keyWords } from '#core/mesh/hash'
import { emptyPreparation } from '#core/mesh/preparation'
import { findParts } from '#core/mesh/parts'
import { samplePartPoints, samplePoints } from '#core/mesh/sample'
import { BLEND_MODES } from '#core/nodes/blendColors'
import { COMBINE_MODES } from '#core/nodes/combine'
import { GRUNGE_KINDS } from '#core/nodes/grunge'
import type { ParamValue } from '#core/nodes/declare'
import { hash4 } from '../reference/noise'
import { lower, reader } from '#core/program/lower'
import { plan } from '#core/program/plan'
import {
  at,
  ball,
  boxes,
  kernels,
  lookOf,
  meshOf,
  notSo,
  outputsOf,
  partsOf,
  positionsOf,
  row,
  tablesOf,
} from '../helpers'

const tables = tablesOf(row(4))
const points = samplePoints(tables.mesh, 300)
const first = (kind: string, params: Record<string, ParamValue>, port = 'value') =>
  outputsOf(kind, params, tables, points)[port]!.map(c => c[0]!)
const unit = fc.double({ min: 0, max: 1, noNaN: true })
const rgb = fc.tuple(unit, unit, unit)

describe('Combine', () => {
  const value = (mode: string, a: number, b: number, amount = 1) => first('combine', { mode, a, b, amount })[0]!
  it('joins masks by their definitions', () => {
    const cases: [string, number][] = [
      ['multiply', 0.15],
      ['screen', 0.65],
      ['add', 0.8],
      ['subtract', 0],
      ['lighten', 0.5],
      ['darken', 0.3],
      ['difference', 0.2],
      ['overlay', 0.3],
    ]
    for (const [mode, want] of cases) expect(value(mode, 0.3, 0.5), mode).toBeCloseTo(want, 6)
    expect(value('overlay', 0.8, 0.5)).toBeCloseTo(0.8, 6)
  })
  it('stays between 0 and 1, and leaves A alone at amount 0', () =>
    fc.assert(
      fc.property(fc.constantFrom(...COMBINE_MODES), unit, unit, unit, (mode, a, b, amount) => {
        const x = value(mode, a, b, amount)
        return x >= 0 && x <= 1 && Math.abs(value(mode, a, b, 0) - a) < 1e-6
      }),
      { numRuns: 60 },
    ))
})

describe('Steps, Remap, Invert and Switch', () => {
  it('Steps gives so many levels, from 0 to 1', () => {
    const levels = new Set(
      Array.from({ length: 101 }, (_, i) => first('steps', { value: i / 100, count: 4 })[0]!.toFixed(4)),
    )
    expect([...levels]).toEqual(['0.0000', '0.3333', '0.6667', '1.0000'])
  })
  it('Remap carries ranges over, held at the ends or not', () => {
    const value = (v: number, hold: boolean) =>
      first('remap', { value: v, fromLow: 10, fromHigh: 20, toLow: 5, toHigh: -5, hold })[0]!
    expect([value(15, true), value(30, true), value(30, false)]).toEqual([0, -5, -15])
  })
  it('Invert twice is what was', () => {
    const look = lookOf({ a: ['invert', { value: 0.3 }], b: ['invert'] }, ['a.value > b.value'])
    expect(at(look, tables, 'invert2/value', points)[0]![0]).toBeCloseTo(0.3, 6)
  })
  it('Switch divides 0 to 1 evenly among its inputs', () => {
    const picked = (by: number, count: string) =>
      first('switch', { what: 'value', count, by, a: 1, b: 2, c: 3, d: 4 }, 'out')[0]
    expect([0, 0.32, 0.34, 0.65, 0.68, 1].map(x => picked(x, '3'))).toEqual([1, 1, 2, 2, 3, 3])
    expect([0.49, 0.51].map(x => picked(x, '2'))).toEqual([1, 2])
    expect(picked(0.9, '4')).toBe(4)
  })
})

describe('Blend colors', () => {
  /** The formulas of W3C Compositing and Blending Level 1, 9.1, on encoded values. */
  const hard = (b: number, s: number): number => (s <= 0.5 ? b * 2 * s : b + (2 * s - 1) - b * (2 * s - 1))
  const dodge = (b: number, s: number): number => {
    if (b === 0) return 0
    return s === 1 ? 1 : Math.min(1, b / (1 - s))
  }
  const WANTED: Record<string, (b: number, s: number) => number> = {
    multiply: (b, s) => b * s,
    screen: (b, s) => b + s - b * s,
    overlay: (b, s) => hard(s, b),
    darken: Math.min,
    lighten: Math.max,
    colorDodge: (b, s) => dodge(b, s),
    colorBurn: (b, s) => 1 - dodge(1 - b, 1 - s),
    hardLight: hard,
    difference: (b, s) => Math.abs(b - s),
    exclusion: (b, s) => b + s - 2 * b * s,
    softLight: (b, s) =>
      s <= 0.5
        ? b - (1 - 2 * s) * b * (1 - b)
        : b + (2 * s - 1) * ((b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b)) - b),
  }
  /** The functions of 9.2, as the standard writes them out. */
  const lum = (c: readonly number[]) => 0.3 * c[0]! + 0.59 * c[1]! + 0.11 * c[2]!
  const sat = (c: readonly number[]) => Math.max(...c) - Math.min(...c)
  const clipColor = (c: number[]) => {
    const l = lum(c)
    const n = Math.min(...c)
    const x = Math.max(...c)
    const low = n < 0 ? c.map(v => l + ((v - l) * l) / (l - n)) : c
    return x > 1 ? low.map(v => l + ((v - l) * (1 - l)) / (x - l)) : low
  }
  const setLum = (c: number[], l: number) => clipColor(c.map(v => v + l - lum(c)))
  const setSat = (c: number[], s: number) => {
    const [min, mid, max] = [...c.keys()].sort((a, b) => c[a]! - c[b]!) as [number, number, number]
    const out = [0, 0, 0]
    if (c[max]! > c[min]!) {
      out[mid] = ((c[mid]! - c[min]!) * s) / (c[max]! - c[min]!)
      out[max] = s
    }
    return out
  }
  const WHOLE: Record<string, (b: number[], s: number[]) => number[]> = {
    hue: (b, s) => setLum(setSat(s, sat(b)), lum(b)),
    saturation: (b, s) => setLum(setSat(b, sat(s)), lum(b)),
    color: (b, s) => setLum(s, lum(b)),
    luminosity: (b, s) => setLum(b, lum(s)),
  }
  const encode = (x: number) => (x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055)
  it('has a formula to be compared with for every mode', () =>
    expect([...Object.keys(WANTED), ...Object.keys(WHOLE)].sort()).toEqual([...BLEND_MODES].sort()))
  it("is the standard's, on encoded sRGB", () =>
    fc.assert(
      fc.property(fc.constantFrom(...BLEND_MODES), rgb, rgb, (mode, below, above) => {
        const got = first('blendColors', { mode, below, above }, 'color')
        if (WHOLE[mode]) {
          // A source without any color has no hue, and float rounding decides which it gets.
          if (sat(above.map(encode)) < 1e-3 || sat(below.map(encode)) < 1e-3) return
          WHOLE[mode](below.map(encode), above.map(encode)).forEach((x, k) =>
            expect(encode(got[k]!), `${mode} ${below} ${above}`).toBeCloseTo(x, 3),
          )
          return
        }
        got.forEach((x, k) => {
          const b = encode(below[k]!)
          const s = encode(above[k]!)
          // Dodge and burn leap where a component is nearly 0 or 1.
          if ([b, s].some(y => y < 1e-3 || y > 1 - 1e-3)) return
          expect(encode(x), `${mode} ${b} ${s}`).toBeCloseTo(WANTED[mode]!(b, s), 3)
        })
      }),
      { numRuns: 150 },
    ))
  it('keeps the color below at amount 0', () =>
    fc.assert(
      fc.property(fc.constantFrom(...BLEND_MODES), rgb, rgb, (mode, below, above) =>
        first('blendColors', { mode, below, above, amount: 0 }, 'color').every(
          (x, k) => Math.abs(x - below[k]!) < 1e-4,
        ),
      ),
      { numRuns: 40 },
    ))
})

describe('Colors', () => {
  it('adjusted by nothing are the same, and always inside the gamut', () => {
    fc.assert(
      fc.property(rgb, color =>
        first('adjustColor', { color }, 'color').every((x, k) => Math.abs(x - color[k]!) < 2e-3),
      ),
      { numRuns: 40 },
    )
    fc.assert(
      fc.property(
        rgb,
        fc.integer({ min: -180, max: 180 }),
        fc.integer({ min: 0, max: 300 }),
        fc.integer({ min: -100, max: 100 }),
        (color, hue, chroma, lightness) =>
          first('adjustColor', { color, hue, chroma, lightness }, 'color').every(x => x >= 0 && x <= 1),
      ),
      { numRuns: 60 },
    )
  })
  it('keep their hue and lightness where chroma has to go to stay inside the gamut', () =>
    fc.assert(
      fc.property(rgb, fc.integer({ min: 150, max: 300 }), (color, chroma) => {
        const [L, C, H] = toLch(color)
        // Grays have no hue, and at the ends of lightness there is no room for one.
        fc.pre(C > 0.03 && L > 0.2 && L < 0.9)
        const after = toLch(first('adjustColor', { color, chroma }, 'color') as Triple)
        const turned = Math.abs(((after[2] - H + 540) % 360) - 180)
        expect(turned).toBeLessThan(0.7)
        expect(Math.abs(after[0] - L)).toBeLessThan(0.004)
      }),
      { numRuns: 80 },
    ))
  it('turn by the hue that is asked for', () => {
    const before = toLch([0.3, 0.2, 0.15])
    const after = toLch(first('adjustColor', { color: [0.3, 0.2, 0.15], hue: 40, chroma: 50 }, 'color') as Triple)
    expect([after[0] - before[0], after[1] / before[1], after[2] - before[2]].map(x => Number(x.toFixed(2)))).toEqual([
      0, 0.5, 40,
    ])
  })
  it('come back from their parts', () =>
    fc.assert(
      fc.property(rgb, color => {
        const look = lookOf({ s: ['separate', { color }], j: ['join'] }, [
          's.red > j.first',
          's.green > j.second',
          's.blue > j.third',
        ])
        return at(look, tables, 'join1/color', points).every((c, k) => Math.abs(c[0]! - color[k]!) < 1e-6)
      }),
      { numRuns: 20 },
    ))
  it('of a palette fill their widths', () => {
    const stops = [
      { at: 0, color: [1, 0, 0] as Triple },
      { at: 0.25, color: [0, 1, 0] as Triple },
      { at: 0.75, color: [0, 0, 1] as Triple },
    ]
    const at = (value: number) => first('ramp', { value, stops, between: 'none' }, 'color').join()
    expect([0, 0.24, 0.26, 0.74, 0.76, 1].map(at)).toEqual(['1,0,0', '1,0,0', '0,1,0', '0,1,0', '0,0,1', '0,0,1'])
  })
})

describe('Layer', () => {
  const finish = (color: Triple, rough: number): [string, Record<string, ParamValue>] => [
    'finish',
    { baseColor: color, roughness: rough, metalness: rough },
  ]
  const layered = (mask: number, params: Record<string, ParamValue> = {}) => {
    const look = lookOf(
      { below: finish([0.1, 0.2, 0.3], 0.2), above: finish([0.7, 0.6, 0.5], 0.9), l: ['layer', { mask, ...params }] },
      ['below.finish > l.below', 'above.finish > l.above'],
    )
    return at(look, tables, 'layer1/finish', points).map(c => Number(c[0]!.toFixed(5)))
  }
  it('is the lower finish at mask 0, the upper one at 1, and between them halfway', () => {
    expect(layered(0)).toEqual([0.1, 0.2, 0.3, 0.2, 0.2])
    expect(layered(1)).toEqual([0.7, 0.6, 0.5, 0.9, 0.9])
    expect(layered(0.5)).toEqual([0.4, 0.4, 0.4, 0.55, 0.55])
  })
  it('leaves a channel alone or covers it whole', () => {
    expect(layered(0.6, { channels: 'each', roughnessWay: 'leave', metalnessWay: 'cover' })).toEqual([
      0.46, 0.44, 0.42, 0.9, 0.2,
    ])
    expect(layered(0.4, { channels: 'each', metalnessWay: 'cover', amount: 0.5 })[3]).toBe(0.2)
  })
  it('with nothing above is what lies below', () => {
    const look = lookOf({ below: finish([0.1, 0.2, 0.3], 0.2), l: ['layer'] }, ['below.finish > l.below'])
    expect(at(look, tables, 'layer1/finish', points).map(c => Number(c[0]!.toFixed(5)))).toEqual([
      0.1, 0.2, 0.3, 0.2, 0.2,
    ])
  })
})

describe('Part measure', () => {
  const mesh = boxes([
    { object: 'a', at: [0, 0, 0] },
    { object: 'b', at: [4, 0, 0], size: [2, 2, 2] },
    { object: 'c', at: [9, 0, 0], size: [3, 3, 3] },
    { object: 'd', at: [14, 0, 0] },
  ])
  const { tables: measured } = new Workpiece(mesh, emptyPreparation())
  const where = samplePoints(measured.mesh, 400)
  const each = (params: Record<string, ParamValue>) => {
    const values = outputsOf('partMeasure', params, measured, where).value![0]!
    const parts = partsOf(measured, where)
    return measured.parts.parts.map((_, p) => Number(values[parts.indexOf(p)]!.toFixed(3)))
  }
  it('is in centimeters, a rank that equal parts share, or fitted', () => {
    expect(each({ measure: 'area', as: 'raw' })).toEqual([6e4, 24e4, 54e4, 6e4])
    expect(each({ measure: 'volume', as: 'rank' })).toEqual([0.167, 0.667, 1, 0.167])
    expect(each({ measure: 'volume', as: 'fitted' })).toEqual([0, 0.269, 1, 0])
  })
  it('counts the parts that a part touches', () => {
    const { tables: stacked } = new Workpiece(
      boxes([0, 1, 2, 5].map((x, i) => ({ object: `o${i}`, at: [x, 0, 0] as [number, number, number] }))),
      emptyPreparation(),
    )
    const on = samplePartPoints(stacked.mesh, stacked.parts, 1)
    const read = (as: string) => [...outputsOf('partMeasure', { measure: 'neighbors', as }, stacked, on).value![0]!]
    expect(read('raw')).toEqual([1, 2, 1, 0])
    expect(read('fitted')).toEqual([0.5, 1, 0.5, 0])
    expect(read('rank')).toEqual([0.5, 1, 0.5, 0])
  })
})

describe('Part random', () => {
  it('follows its group as far as it is told', () => {
    const mesh = boxes(
      Array.from({ length: 6 }, (_, i) => ({ object: `o${i % 2}`, at: [i * 2, 0, 0] as [number, number, number] })),
    )
    const t = meshTables(mesh, findParts(mesh))
    const where = samplePoints(mesh, 300)
    const parts = partsOf(t, where)
    const drawn = (follow: number) => outputsOf('partRandom', { seed: 3, follow }, t, where).value![0]!
    expect(new Set(drawn(1)).size).toBe(2)
    expect(new Set(drawn(0)).size).toBe(6)
    parts.forEach((p, i) => expect(drawn(0)[i]).toBe((hash4(...keyWords(t.parts.parts[p]!.key), 3, 0) >>> 8) / 2 ** 24))
    const signed = outputsOf('partRandom', { seed: 3 }, t, where).signed![0]!
    signed.forEach((x, i) => expect(x).toBeCloseTo(drawn(0)[i]! * 2 - 1, 5))
  })
})

describe('Balanced draws', () => {
  const mesh = boxes(
    Array.from({ length: 40 }, (_, i) => ({
      object: `o${i % 4}`,
      at: [i * 4, 0, 0] as [number, number, number],
      size: [1 + (i % 5) * 0.5, 1, 1] as [number, number, number],
    })),
  )
  const t = meshTables(mesh, findParts(mesh))
  const where = samplePartPoints(mesh, t.parts, 1)
  const stops = [
    { at: 0, color: [1, 0, 0] as Triple },
    { at: 0.3, color: [0, 1, 0] as Triple },
    { at: 0.9, color: [0, 0, 1] as Triple },
  ]
  const picked = (how: string, seed: number, level = 'part') => {
    const look = lookOf({ r: ['partRandom', { how, seed, level }], p: ['ramp', { between: 'none', stops }] }, [
      'r.value > p.value',
    ])
    return at(look, t, 'ramp1/color', where).map(c => [...c])
  }
  it('give a palette its shares by count, to one part', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 9999 }), seed => {
        const [red, green, blue] = picked('count', seed).map(c => c.reduce((s, x) => s + x, 0)) as [
          number,
          number,
          number,
        ]
        return red === 12 && green === 24 && blue === 4
      }),
      { numRuns: 25 },
    ))
  it('or by area, to the area of one part', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 9999 }), seed => {
        const areas = t.parts.parts.map(p => p.area)
        const total = areas.reduce((s, a) => s + a, 0)
        const largest = Math.max(...areas) / total
        const shares = picked('area', seed).map(c => c.reduce((s, x, i) => s + x * areas[i]!, 0) / total)
        return [0.3, 0.6, 0.1].every((want, k) => Math.abs(shares[k]! - want) <= largest)
      }),
      { numRuns: 25 },
    ))
  it('keep one value for each object or group, evenly spread', () => {
    const values = outputsOf('partRandom', { how: 'count', level: 'object', seed: 4 }, t, where).value![0]!
    expect([...new Set(values)].map(x => Number(x.toFixed(3))).sort()).toEqual([0.125, 0.375, 0.625, 0.875])
  })
  it('answer to another seed', () => expect(picked('count', 1)).not.toEqual(picked('count', 2)))
})

describe('Places', () => {
  it('Position is in the box of the mesh or the part, or in centimeters', () => {
    const share = outputsOf('position', { space: 'part' }, tables, points)
    const cm = outputsOf('position', { unit: 'cm' }, tables, points)
    const where = positionsOf(tables, points)
    where.forEach(([x, y], i) => {
      expect(share.y![0]![i]).toBeCloseTo(y + 0.5, 5)
      expect(cm.x![0]![i]).toBeCloseTo((x + 0.5) * 100, 2)
    })
  })
  it('Facing is 1 on top, 0.5 at the sides, 0 below, whatever the length of the direction', () => {
    const value = outputsOf('facing', { y: 0.2 }, tables, points).value![0]!
    const { normals, indices } = tables.mesh
    points.triangle.forEach((t, i) => expect(value[i]).toBeCloseTo(0.5 + normals[indices[t * 3]! * 3 + 1]! / 2, 3))
    expect(new Set([...value].map(x => x.toFixed(1)))).toEqual(new Set(['0.0', '0.5', '1.0']))
  })
  it('the front of a gradient moves by its ragged input, and by nothing at 0.5', () => {
    const value = (ragged: number) =>
      outputsOf('positionGradient', { ragged, raggedness: 0.4 }, tables, points).value![0]!
    const plain = value(0.5)
    const moved = value(1)
    positionsOf(tables, points).forEach(([, y], i) => {
      expect(plain[i]).toBeCloseTo(y + 0.5, 5)
      expect(moved[i]).toBeCloseTo(Math.min(1, y + 0.7), 5)
    })
  })
  it('Zone is 1 inside its shape and 0 beyond the falloff', () => {
    const round = tablesOf(meshOf(ball(1)))
    const where = samplePoints(round.mesh, 300)
    const place = positionsOf(round, where)
    const away: Record<string, (p: [number, number, number]) => number> = {
      ball: ([x, y, z]) => Math.hypot(x - 0.5, y, z) - 0.5,
      box: p => Math.hypot(...p.map((q, k) => Math.max(0, Math.abs(q - (k ? 0 : 0.5)) - 0.5))),
      capsule: ([x, y, z]) => Math.hypot(x - 0.5, Math.max(0, Math.abs(y) - 0.5), z) - 0.5,
      below: ([, y]) => y,
      ring: ([x, y, z]) => Math.hypot(Math.hypot(x - 0.5, z) - 0.5, y) - 0.1,
    }
    for (const [shape, distance] of Object.entries(away)) {
      const value = outputsOf('zone', { shape, x: 50, falloff: 30 }, round, where).value![0]!
      place.forEach((p, i) => {
        const t = Math.min(1, Math.max(0, distance(p) / 0.3))
        expect(value[i], shape).toBeCloseTo(1 - t * t * (3 - 2 * t), 3)
      })
      expect(Math.min(...value), shape).toBeLessThan(0.1)
      expect(Math.max(...value), shape).toBeGreaterThan(0.9)
    }
  })
})

describe('Patterns', () => {
  const round = tablesOf(meshOf(ball(1)))
  const where = samplePoints(round.mesh, 4000)
  const grunge = (params: Record<string, ParamValue>) => outputsOf('grunge', params, round, where).value![0]!
  it('Grunge has at least ten kinds; each covers nothing at amount 0, all at 1, and more with more', () => {
    expect(GRUNGE_KINDS.length).toBeGreaterThanOrEqual(10)
    for (const pattern of GRUNGE_KINDS) {
      const mean = (amount: number) => grunge({ pattern, amount, size: 15 }).reduce((s, x) => s + x, 0) / where.count
      const means = [0, 0.25, 0.5, 0.75, 1].map(mean)
      expect([means[0], means[4]], pattern).toEqual([0, 1])
      for (let i = 1; i < 5; i++) expect(means[i]!, pattern).toBeGreaterThan(means[i - 1]!)
      // Another seed is another place, the same kind of marks.
      const other = grunge({ pattern, amount: 0.6, size: 15, seed: 9 })
      const one = grunge({ pattern, amount: 0.6, size: 15 })
      expect(one.filter((x, i) => Math.abs(x - other[i]!) > 0.01).length, pattern).toBeGreaterThan(where.count * 0.05)
    }
  })
  it('Stripes cover their width, and keep one value to a band', () => {
    for (const share of [0, 0.3, 1]) {
      const value = outputsOf('stripes', { share, softness: 0, size: 10 }, round, where).value![0]!
      // On a ball equal heights have equal areas.
      expect(value.reduce((s, x) => s + x, 0) / where.count).toBeCloseTo(share, 1.3)
    }
    const each = outputsOf('stripes', { size: 50 }, round, where).each![0]!
    expect(new Set(each).size).toBe(4)
  })
  it('Tiles have a value for each, and a gap as wide as it is said', () => {
    const wall = tablesOf(boxes([{ object: 'wall', at: [0, 0, 0], size: [4, 2, 0.01] }]))
    const on = samplePoints(wall.mesh, 6000)
    const params = { width: 40, height: 20, gap: 40, offset: 0.5 }
    const { value, inside, edge } = outputsOf('tiles', params, wall, on)
    const place = positionsOf(wall, on)
    const front = [...on.triangle.keys()].filter(i => Math.abs(Math.abs(place[i]![2]) - 0.005) < 1e-4)
    expect(front.filter(i => inside![0]![i] === 1).length / front.length).toBeCloseTo(0.9 * 0.8, 1.5)
    const wayAt = (i: number): number => {
      const [x, y] = place[i]!
      const line = Math.floor(y / 0.2)
      const t = x / 0.4 + line * 0.5
      return Math.min(0.5 - Math.abs(t - Math.floor(t) - 0.5), (0.5 - Math.abs(y / 0.2 - line - 0.5)) / 2) * 40 - 2
    }
    const isNear = (way: number): boolean => Math.abs(way) <= 1e-2
    expect(notSo(front, i => isNear(wayAt(i)) || inside![0]![i] === (wayAt(i) > 0 ? 1 : 0))).toEqual([])
    expect(notSo(front, i => Math.abs(edge![0]![i]! - Math.max(0, wayAt(i) / 10)) < 5e-3)).toEqual([])
    const byTile = new Map<string, Set<number>>()
    for (const i of front) {
      const [x, y] = place[i]!
      const line = Math.floor(y / 0.2)
      const key = `${Math.floor(x / 0.4 + line * 0.5)} ${line}`
      byTile.set(key, (byTile.get(key) ?? new Set()).add(value![0]![i]!))
    }
    const split = [...byTile.values()].filter(s => s.size > 1).length
    expect(split).toBeLessThanOrEqual(2)
    expect(new Set([...byTile.values()].map(s => [...s][0])).size).toBeGreaterThan(90)
  })
  it('Tiles and Stripes can begin anew in each part', () => {
    const t = tablesOf(
      boxes([
        { object: 'a', at: [0, 0, 0] },
        { object: 'b', at: [0, 0, 2] },
      ]),
    )
    const on = samplePartPoints(t.mesh, t.parts, 600)
    for (const [kind, port] of [
      ['tiles', 'inside'],
      ['stripes', 'value'],
    ] as const) {
      // Two equal boxes one behind the other: the same from the front, unless each begins by its key.
      const halves = (own: string) => {
        const values = outputsOf(kind, { own }, t, on)[port]![0]!
        return [values.slice(0, 600), values.slice(600)]
      }
      const [a, b] = halves('space')
      const [c, d] = halves('part')
      a!.forEach((x, i) => expect(b![i]).toBeCloseTo(x, 3))
      expect(c!.filter((x, i) => Math.abs(x - d![i]!) > 0.1).length).toBeGreaterThan(60)
    }
  })
  it('Tiles seen from three sides have straight rows on each side of a box', () => {
    const box = tablesOf(boxes([{ object: 'a', at: [0, 0, 0], size: [2, 2, 2] }]))
    const on = samplePoints(box.mesh, 2000)
    const place = positionsOf(box, on)
    const inside = (plane: string) => outputsOf('tiles', { plane, blending: 0 }, box, on).inside![0]!
    const three = inside('three')
    const sides = { ZY: inside('ZY'), XZ: inside('XZ'), XY: inside('XY') }
    place.forEach((p, i) => {
      const side = (['ZY', 'XZ', 'XY'] as const)[p.findIndex(x => Math.abs(Math.abs(x) - 1) < 1e-5)]!
      expect(three[i]).toBeCloseTo(sides[side][i]!, 4)
    })
  })
  it("ragged borders move a cell's border by less than a feature, and leave its value", () => {
    const clean = outputsOf('cells', { size: 40 }, round, where).value![0]!
    const torn = outputsOf('cells', { size: 40, borders: 'ragged', detail: 1 }, round, where).value![0]!
    const kept = clean.filter((x, i) => x === torn[i]).length / clean.length
    expect(kept).toBeGreaterThan(0.5)
    expect(kept).toBeLessThan(0.95)
    expect(outputsOf('cells', { size: 40, borders: 'ragged', detail: 0 }, round, where).value![0]).toEqual(clean)
  })
  it('in part space are not the same on two equal parts, and move with a part that moves', () => {
    const two = (shift: number) =>
      tablesOf(
        boxes([
          { object: 'a', at: [shift, 0, 0] },
          { object: 'b', at: [3 + shift, 0, 0] },
        ]),
      )
    const t = two(0)
    const points = samplePoints(t.mesh, 800)
    const value = outputsOf('noise', { sits: 'part', size: 30 }, t, points).value![0]!
    const parts = partsOf(t, points)
    const mean = (p: number) => value.filter((_, i) => parts[i] === p)
    expect(
      Math.abs(
        mean(0).reduce((s, x) => s + x, 0) / mean(0).length - mean(1).reduce((s, x) => s + x, 0) / mean(1).length,
      ),
    ).toBeGreaterThan(1e-3)
    // The same key elsewhere: the pattern went along.
    const piece = new Workpiece(two(0).mesh, emptyPreparation())
    const moved = new Workpiece(two(0.75).mesh, emptyPreparation(), piece.table)
    const before = outputsOf('noise', { sits: 'part', size: 30 }, piece.tables, points).value![0]!
    const after = outputsOf('noise', { sits: 'part', size: 30 }, moved.tables, points).value![0]!
    before.forEach((x, i) => expect(after[i]).toBeCloseTo(x, 3))
  })
  it('are bent by another, and by nothing at 0.5', () => {
    const noise = (bend: number, bending: number) =>
      outputsOf('noise', { bend, bending, size: 40 }, round, where).value![0]!
    expect(noise(0.5, 30)).toEqual(noise(0.5, 0))
    // A constant bend is the pattern moved: half of the way along X, −0.7 and 0.8 of it along Y and Z.
    const moved = tablesOf({
      ...round.mesh,
      positions: round.mesh.positions.map((x, i) => x + 0.3 * [1, -0.7, 0.8][i % 3]!),
    })
    const wanted = outputsOf('noise', { size: 40 }, moved, where).value![0]!
    noise(1, 30).forEach((x, i) => expect(x).toBeCloseTo(wanted[i]!, 3))
  })
  it('Cells give each cell one value, and its border is where two middles are equally far', () => {
    const { value, border, distance } = outputsOf('cells', { size: 40 }, round, where)
    expect(new Set(value![0]).size).toBeGreaterThan(20)
    expect(new Set(value![0]).size).toBeLessThan(400)
    expect(Math.min(...border![0]!)).toBeLessThan(0.05)
    expect(Math.min(...distance![0]!)).toBeLessThan(0.2)
  })
})

describe('Coverage', () => {
  const round = tablesOf(meshOf(ball(1), ball(0.6, 24, 16)))
  const dense = samplePoints(round.mesh, 300_007)
  const covered = (params: Record<string, ParamValue>, noise: Record<string, ParamValue> = {}) => {
    const look = lookOf({ n: ['noise', { size: 30, ...noise }], c: ['coverage', { softness: 0, ...params }] }, [
      'n.value > c.value',
    ])
    return at(look, round, 'coverage1/value', dense)[0]!
  }
  const share = (mask: Float32Array) => mask.reduce((s, x) => s + Number(x > 0.5), 0) / mask.length
  it('covers the share that is asked for within half a percent of the area, whatever comes before it', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 100 }),
        fc.integer({ min: 1, max: 500 }),
        fc.integer({ min: 5, max: 80 }),
        fc.constantFrom(0, 0.4),
        (percent, seed, size, softness) =>
          Math.abs(share(covered({ share: percent, softness }, { seed, size })) - percent / 100) < 0.005,
      ),
      { numRuns: 25 },
    )
  })
  it('covers nothing at 0 and everything at 100, also with a soft edge', () => {
    expect(covered({ share: 0, softness: 1 }).every(x => x === 0)).toBe(true)
    expect(covered({ share: 100, softness: 1 }).every(x => x === 1)).toBe(true)
  })
  it('counts and covers inside a mask alone', () => {
    const look = lookOf(
      { n: ['noise', { size: 30 }], up: ['facing', {}], c: ['coverage', { softness: 0, share: 40 }] },
      ['n.value > c.value', 'up.value > c.where'],
    )
    const mask = at(look, round, 'coverage1/value', dense)[0]!
    const inside = at(look, round, 'facing1/value', dense)[0]!.map(x => Number(x > 0.5))
    expect(share(mask) / share(inside)).toBeCloseTo(0.4, 1.9)
    expect(mask.every((x, i) => x <= inside[i]!)).toBe(true)
  })
  it('covers each part by itself within half a percent of its area', () => {
    const many = tablesOf(row(40))
    const on = samplePartPoints(many.mesh, many.parts, 50_021)
    const look = lookOf({ n: ['noise', { size: 20 }], c: ['coverage', { softness: 0, share: 30, over: 'part' }] }, [
      'n.value > c.value',
    ])
    const mask = at(look, many, 'coverage1/value', on)[0]!
    for (let p = 0; p < 40; p++)
      expect(Math.abs(share(mask.subarray(p * 50_021, (p + 1) * 50_021)) - 0.3)).toBeLessThan(0.005)
  })
  it('follows a changed number before it without being made again', () => {
    const look = (size: number) =>
      lookOf({ n: ['noise', { size }], c: ['coverage', { softness: 0, share: 25 }] }, ['n.value > c.value'])
    const program = lower(look(30), [])
    const root = program.outputs.get('coverage1/value')!
    const evaluator = new LoneEvaluator(kernels, plan(program, [root.value as number]), round)
    const out = new Float32Array(dense.count)
    for (const size of [30, 8, 70]) {
      evaluator.refresh(reader(look(size)))
      evaluator.evaluate(dense, [out])
      expect(share(out)).toBeCloseTo(0.25, 1.9)
    }
  })
})

describe('Fit range', () => {
  it('runs from 0 to 1 over the surface, or beyond by what is clipped', () => {
    const round = tablesOf(meshOf(ball(1)))
    const dense = samplePoints(round.mesh, 131_072)
    const look = lookOf(
      { n: ['noise', { size: 30, contrast: 0.2 }], f: ['fitRange', {}], g: ['fitRange', { clip: 10 }] },
      ['n.value > f.value', 'n.value > g.value'],
    )
    const whole = at(look, round, 'fitRange1/value', dense)[0]!
    const clipped = at(look, round, 'fitRange2/value', dense)[0]!
    expect(
      [whole.reduce((a, b) => Math.min(a, b)), whole.reduce((a, b) => Math.max(a, b))].map(x => Number(x.toFixed(3))),
    ).toEqual([0, 1])
    expect(clipped.filter(x => x === 0).length / clipped.length).toBeCloseTo(0.1, 2)
    expect(clipped.filter(x => x === 1).length / clipped.length).toBeCloseTo(0.1, 2)
  })
})
