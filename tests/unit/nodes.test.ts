import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fromLab, toLab, toLch, type Triple } from '#core/color/convert'
import { samplePoints } from '#core/mesh/sample'
import { fractal3, hash4 } from '../reference/noise'
import { at, boxes, lookOf, outputsOf, partsOf, positionsOf, row, tablesOf } from '../helpers'

const tables = tablesOf(row(4))
const points = samplePoints(tables.mesh, 200)
const one = (kind: string, params: Parameters<typeof outputsOf>[1], port: string) =>
  outputsOf(kind, params, tables, points)[port]!.map(c => c[0]!)

describe('Levels', () => {
  it('stretches, bends and holds', () => {
    const value = (v: number, params = {}) =>
      one('levels', { value: v, inLow: 0.2, inHigh: 0.6, outLow: 0.1, outHigh: 0.9, ...params }, 'value')[0]
    expect(value(0.4)).toBeCloseTo(0.5, 6)
    expect(value(0.1)).toBeCloseTo(0.1, 6)
    expect(value(0.9)).toBeCloseTo(0.9, 6)
    expect(value(0.3, { gamma: 2 })).toBeCloseTo(0.1 + 0.8 * Math.sqrt(0.25), 5)
    expect(value(0.7, { outLow: 1, outHigh: 0 })).toBeCloseTo(0, 6)
  })
})

describe('Color stops', () => {
  it('at one place make a hard edge there: the first color before it, the second from it on', () => {
    const stops = [
      { at: 0.5, color: [0.1, 0.2, 0.3] },
      { at: 0.5, color: [0.7, 0.6, 0.5] },
    ] as never
    for (const between of ['linear', 'oklab', 'none']) {
      const color = (value: number) => one('ramp', { value, stops, between }, 'color').map(x => Number(x.toFixed(3)))
      expect([between, color(0.49)]).toEqual([between, [0.1, 0.2, 0.3]])
      expect([between, color(0.51)]).toEqual([between, [0.7, 0.6, 0.5]])
    }
  })
})

describe('Part random', () => {
  it('draws anew at every roll, and each roll is the same the next time', () => {
    const rolls = [0, 1, 2, 3].map(offset =>
      [...outputsOf('partRandom', { offset }, tables, points).value![0]!].map(x => Number(x.toFixed(6))).join(),
    )
    expect(new Set(rolls).size).toBe(4)
    expect(
      [...outputsOf('partRandom', { offset: 2 }, tables, points).value![0]!].map(x => Number(x.toFixed(6))).join(),
    ).toBe(rolls[2])
  })
})

describe('Math', () => {
  const cases: [string, number, number, number][] = [
    ['add', 2, 3, 5],
    ['subtract', 2, 3, -1],
    ['multiply', 2, 3, 6],
    ['divide', 3, 2, 1.5],
    ['divide', 3, 0, 0],
    ['power', 2, 3, 8],
    ['smaller', 2, 3, 2],
    ['larger', 2, 3, 3],
    ['less', 2, 3, 1],
    ['less', 3, 2, 0],
    ['difference', 2, 5, 3],
    ['remainder', -1, 3, 2],
    ['sine', 0.25, 0, 1],
  ]
  it.each(cases)('%s of %d and %d is %d', (operation, a, b, want) =>
    expect(one('math', { operation, a, b }, 'value')[0]).toBeCloseTo(want, 5),
  )
})

describe('Mix', () => {
  it('mixes colors and values', () => {
    expect(one('mix', { a: [1, 0, 0], b: [0, 0, 1], amount: 0.25 }, 'out')).toEqual([0.75, 0, 0.25])
    expect(one('mix', { what: 'value', a: 0.2, b: 0.6, amount: 0.5 }, 'out')[0]).toBeCloseTo(0.4, 6)
  })
})

describe('Ramp', () => {
  const stops = [
    { at: 0.2, color: [0.01, 0.2, 0.1] as Triple },
    { at: 0.6, color: [0.8, 0.1, 0.02] as Triple },
    { at: 1, color: [0.9, 0.9, 0.9] as Triple },
  ]
  it('interpolates in linear light', () => {
    const got = one('ramp', { value: 0.3, stops, between: 'linear' }, 'color')
    stops[0]!.color.forEach((a, k) => expect(got[k]).toBeCloseTo(a + (stops[1]!.color[k]! - a) * 0.25, 5))
  })
  it('interpolates in OKLab', () => {
    const got = one('ramp', { value: 0.3, stops, between: 'oklab' }, 'color')
    const a = toLab(stops[0]!.color)
    const b = toLab(stops[1]!.color)
    fromLab(a.map((x, k) => x + (b[k]! - x) * 0.25) as Triple).forEach((x, k) => expect(got[k]).toBeCloseTo(x, 4))
  })
  it('shows every stop at its place, holds the ends, and does not mind the order in which stops are stored', () => {
    for (const between of ['linear', 'oklab']) {
      for (const s of [...stops, { at: 0, color: stops[0]!.color }]) {
        one('ramp', { value: s.at, stops: [...stops].reverse(), between }, 'color').forEach((x, k) =>
          expect(x).toBeCloseTo(s.color[k]!, 4),
        )
      }
    }
  })
  it('makes a hard edge of two stops at one place', () => {
    const hard = [
      { at: 0.5, color: [0, 0, 0] as Triple },
      { at: 0.5, color: [1, 1, 1] as Triple },
    ]
    expect(one('ramp', { value: 0.49, stops: hard, between: 'linear' }, 'color')[0]).toBe(0)
    expect(one('ramp', { value: 0.51, stops: hard, between: 'linear' }, 'color')[0]).toBe(1)
  })
})

describe('Vary color', () => {
  const base: Triple = [0.2, 0.1, 0.05]
  const vary = (params: object) => one('varyColor', { color: base, ...params }, 'color') as Triple
  it('changes nothing at 0.5', () =>
    vary({ hue: 90, chroma: 100, lightness: 50 }).forEach((x, k) => expect(x).toBeCloseTo(base[k]!, 4)))
  it('turns the hue by half the width either way', () => {
    const turn = (hueBy: number) =>
      ((toLch(vary({ hue: 60, chroma: 0, lightness: 0, hueBy }))[2] - toLch(base)[2] + 540) % 360) - 180
    expect(turn(1)).toBeCloseTo(30, 1)
    expect(turn(0)).toBeCloseTo(-30, 1)
  })
  it('scales the chroma and shifts the lightness', () => {
    const [L, C] = toLch(base)
    expect(toLch(vary({ hue: 0, chroma: 100, lightness: 0, chromaBy: 0 }))[1]).toBeCloseTo(C * 0.5, 3)
    expect(toLch(vary({ hue: 0, chroma: 0, lightness: 20, lightnessBy: 1 }))[0]).toBeCloseTo(L + 0.1, 3)
  })
  it('stays inside the gamut, whatever goes in', () => {
    const unit = fc.double({ min: 0, max: 1, noNaN: true })
    fc.assert(
      fc.property(fc.tuple(unit, unit, unit), unit, unit, unit, (color, hueBy, chromaBy, lightnessBy) => {
        for (const x of one(
          'varyColor',
          { color: [...color], hueBy, chromaBy, lightnessBy, hue: 360, chroma: 200, lightness: 100 },
          'color',
        )) {
          expect(x).toBeGreaterThanOrEqual(0)
          expect(x).toBeLessThanOrEqual(1)
        }
      }),
      { numRuns: 60 },
    )
  })
})

describe('Noise', () => {
  it("is the standard's fractal noise at the size it says, the lattice moved by its seed", () => {
    const where = positionsOf(tables, points)
    for (const seed of [1, 2, 77]) {
      const got = outputsOf('noise', { size: 50, detail: 3, strength: 0.6, contrast: 0.7, seed }, tables, points)
        .value![0]!
      const offset = [0, 1, 2].map(stream => (512 * (hash4(0, 0, seed, stream) >>> 8)) / 2 ** 24)
      where.forEach((p, i) => {
        const [x, y, z] = p.map((c, k) => c * 2 + offset[k]!) as Triple
        expect(got[i]).toBeCloseTo(Math.min(1, Math.max(0, 0.5 + 0.35 * fractal3(x, y, z, 3, 2, 0.6))), 3)
      })
    }
  })
})

describe('Part random', () => {
  it('draws per part, per group or per object, three streams apart', () => {
    const mesh = boxes([0, 1, 2, 3].map(i => ({ object: i < 2 ? 'left' : 'right', at: [i * 2, 0, 0] as Triple })))
    const t = tablesOf(mesh)
    const p = samplePoints(mesh, 400)
    const distinct = (level: string) => new Set(outputsOf('partRandom', { level, seed: 3 }, t, p).value![0]).size
    expect([distinct('part'), distinct('group'), distinct('object')]).toEqual([4, 2, 2])
    const o = outputsOf('partRandom', { seed: 3 }, t, p)
    expect(o.value![0]![0]).not.toBe(o.second![0]![0])
    expect(o.second![0]![0]).not.toBe(o.third![0]![0])
  })
})

describe('Position gradient', () => {
  const specs = [
    { object: 'a', at: [0, 0, 0] as Triple },
    { object: 'a', at: [0, 3, 0] as Triple, size: [1, 2, 1] as Triple },
    { object: 'b', at: [4, 1, 0] as Triple },
  ]
  const t = tablesOf(boxes(specs))
  const p = samplePoints(t.mesh, 600)
  const where = positionsOf(t, p)
  const part = partsOf(t, p)
  const gradient = (params: object) => outputsOf('positionGradient', { ...params }, t, p).value![0]!
  it('rises over the mesh, each object or each part', () => {
    const check = (space: string, low: (i: number) => number, size: (i: number) => number) =>
      gradient({ space, axis: 'Y' }).forEach((x, i) =>
        expect(x).toBeCloseTo(Math.min(1, Math.max(0, (where[i]![1] - low(i)) / size(i))), 4),
      )
    check(
      'mesh',
      () => -0.5,
      () => 4.5,
    )
    check(
      'object',
      i => (t.parts.parts[part[i]!]!.object === 0 ? -0.5 : 0.5),
      i => (t.parts.parts[part[i]!]!.object === 0 ? 4.5 : 1),
    )
    check(
      'part',
      i => t.parts.parts[part[i]!]!.min[1],
      i => t.parts.parts[part[i]!]!.size[1],
    )
  })
  it('starts, ends, eases and flips where it is told', () => {
    const share = where.map(([, y]) => (y + 0.5) / 4.5)
    gradient({ start: 0.25, end: 0.75 }).forEach((x, i) =>
      expect(x).toBeCloseTo(Math.min(1, Math.max(0, (share[i]! - 0.25) / 0.5)), 4),
    )
    gradient({ flip: true }).forEach((x, i) => expect(x).toBeCloseTo(1 - share[i]!, 4))
    gradient({ softness: 1 }).forEach((x, i) => expect(x).toBeCloseTo(share[i]! ** 2 * (3 - 2 * share[i]!), 4))
  })
})

describe('Vertex map', () => {
  it('reads a component, a color, and 0 for a name that is not there', () => {
    const mesh = row(1)
    const values = Float32Array.from({ length: 24 * 3 }, (_, i) => (i % 3) / 4)
    const t = tablesOf({ ...mesh, maps: [{ name: 'COLOR_0', components: 3, values }] })
    expect(outputsOf('vertexMap', { map: 'COLOR_0', component: 2 }, t).value![0]![5]).toBe(0.5)
    expect(outputsOf('vertexMap', { map: 'COLOR_0' }, t).color!.map(c => c[5])).toEqual([0, 0.25, 0.5])
    expect(outputsOf('vertexMap', { map: 'color_0' }, t).value![0]![5]).toBe(0)
  })
})

describe('Finish', () => {
  it('keeps every channel in range', () => {
    const look = lookOf({ big: ['value', { value: 7 }], small: ['value', { value: -7 }], finish: ['finish'] }, [
      'big.value > finish.roughness',
      'small.value > finish.metalness',
      'big.value > finish.baseColor',
    ])
    expect(at(look, tables, 'finish1/finish', points).map(c => c[0])).toEqual([1, 1, 1, 0, 1])
  })
  it('takes a color as a value by its luminance, and a value as gray', () => {
    const look = lookOf({ color: ['color', { color: [0.5, 0.25, 1] }], finish: ['finish'] }, [
      'color.color > finish.roughness',
    ])
    expect(at(look, tables, 'finish1/finish', points)[4]![0]).toBeCloseTo(0.5 * 0.2126 + 0.25 * 0.7152 + 0.0722, 5)
  })
})
