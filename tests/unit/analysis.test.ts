import fc from 'fast-check'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { Analyzer, SWATCH_HEIGHT, SWATCH_WIDTH } from '#core/evaluate/analysis'
import { checkValues } from '#core/evaluate/checks'
import { Evaluator } from '#core/evaluate/evaluator'
import { STATISTIC_POINTS } from '#core/evaluate/gather'
import { LaidLook } from '#core/evaluate/laidLook'
import { Workpiece } from '#core/evaluate/workpiece'
import { setParam } from '#core/graph/edit'
import { samplePoints } from '#core/mesh/sample'
import { smallView } from '#core/evaluate/view'
import { findParts } from '#core/mesh/parts'
import { emptyPreparation } from '#core/mesh/preparation'
import { atOnce } from '#core/pieces'
import { boxes, crowd, kernels, lookOf, positionsOf, row, tablesOf } from '../helpers'

const look = lookOf(
  {
    rise: ['positionGradient', { axis: 'Y' }],
    levels: ['levels'],
    noise: ['noise'],
    color: ['color', { color: [0.9, 0.2, 0.1] }],
    finish: ['finish'],
  },
  [
    'rise.value > levels.value',
    'levels.value > finish.roughness',
    'color.color > finish.baseColor',
    'finish.finish > result.finish',
  ],
)

describe('readings', () => {
  const tables = tablesOf(row(3))
  const analyzer = new Analyzer(kernels, tables)
  it("are distributions by area: a box's height is half on its ends, half evenly between", () => {
    const [reading] = analyzer.analyze(look, 'positionGradient1').readings
    expect(reading).toMatchObject({ title: 'Value', axis: 'value', from: 0, to: 1 })
    expect(reading!.shares.reduce((a, x) => a + x)).toBeCloseTo(1, 9)
    expect(reading!.mean).toBeCloseTo(0.5, 2)
    // Bottom and top are a sixth of the surface each; the four sides spread two thirds over 48 bins.
    expect(reading!.shares[0]).toBeCloseTo(1 / 6 + 2 / 3 / 48, 2)
    expect(reading!.shares[24]).toBeCloseTo(2 / 3 / 48, 2)
  })
  it('show a color by its lightness, in its own color, and a finish with its roughness', () => {
    const [light] = analyzer.analyze(look, 'color1').readings
    expect(light!.high - light!.low).toBeLessThan(1e-6)
    expect(light!.colors![Math.floor(light!.mean * 48)]).toBe('#f37c59')
    expect(analyzer.analyze(look, 'finish1').readings.map(r => r.axis)).toEqual(['lightness', 'roughness'])
  })
  it('give every wire its mean', () => {
    const { ports } = analyzer.analyze(look)
    ;[0.9, 0.2, 0.1].forEach((x, k) => expect(ports['color1/color']!.mean[k]).toBeCloseTo(x, 5))
    expect(ports['positionGradient1/value']).toMatchObject({ low: 0, high: 1 })
  })
})

describe('swatches', () => {
  it('come for every node at first, then only where the picture has changed', () => {
    const analyzer = new Analyzer(kernels, tablesOf(row(3)))
    const drawn = (l: typeof look) => Object.keys(analyzer.analyze(l).swatches).sort()
    expect(drawn(look)).toEqual(['color1', 'finish1', 'levels1', 'noise1', 'positionGradient1', 'result'])
    expect(drawn(look)).toEqual([])
    expect(drawn(setParam(look, 'noise1', 'size', 7))).toEqual(['noise1'])
    expect(drawn(setParam(setParam(look, 'noise1', 'size', 7), 'color1', 'color', [0, 0, 1]))).toEqual([
      'color1',
      'finish1',
      'result',
    ])
  })
  it('become smooth piece by piece, and are due for as long as they have not', () => {
    const blue = setParam(look, 'color1', 'color', [0, 0, 1])
    const smooth = (l: typeof look) => {
      const analyzer = new Analyzer(kernels, tablesOf(row(3)))
      const { swatches } = analyzer.analyze(l)
      return { coarse: swatches, fine: atOnce(analyzer.refining()), again: atOnce(analyzer.refining()) }
    }
    const { coarse, fine, again } = smooth(look)
    expect(Object.keys(fine).sort()).toEqual(Object.keys(coarse).sort())
    expect(again).toEqual({})
    // The same picture with softer edges.
    for (const [node, pixels] of Object.entries(fine)) {
      expect(pixels).not.toEqual(coarse[node])
      const off = pixels.map((x, i) => Math.abs(x - coarse[node]![i]!))
      expect(off.reduce((a, x) => a + x) / off.length, node).toBeLessThan(3)
    }

    const analyzer = new Analyzer(kernels, tablesOf(row(3)))
    analyzer.analyze(look)
    expect([...analyzer.refining()].length).toBeGreaterThan(3)
    analyzer.analyze(blue)
    // Given up after a piece.
    analyzer.refining().next()
    expect(atOnce(analyzer.refining())).toEqual(
      Object.fromEntries(Object.entries(smooth(blue).fine).filter(([node]) => /color|finish|result/.test(node))),
    )

    // Changed after a piece: nothing is shown of what was before.
    const other = new Analyzer(kernels, tablesOf(row(3)))
    other.analyze(look)
    const begun = other.refining()
    begun.next()
    other.analyze(blue)
    expect(atOnce(begun)).toEqual({})
    expect(atOnce(other.refining())).toEqual(smooth(blue).fine)
  })
  it('look where the mesh is, also where there is nothing in its middle', () => {
    // An arch of boxes: five of them are a third as high as what they stand around.
    const around = Array.from({ length: 60 }, (_, i) => (i / 59 - 0.5) * Math.PI)
    const arch = boxes(
      around.map(a => ({ object: 'a', at: [3 * Math.sin(a), 3 * Math.cos(a), 0], size: [0.2, 0.2, 0.2] })),
    )
    const { points } = smallView(arch, findParts(arch), SWATCH_WIDTH, SWATCH_HEIGHT)
    expect(points.count).toBeGreaterThan(SWATCH_WIDTH * SWATCH_HEIGHT * 0.1)
  })
  it('show the parts that make up the surface, however many small ones lie on them', () => {
    const planks = Array.from({ length: 5 }, (_, i) => ({
      object: 'plank',
      at: [i * 0.2, 0, 0],
      size: [0.18, 0.05, 1],
    }))
    const bolts = Array.from({ length: 50 }, (_, i) => ({
      object: 'bolt',
      at: [Math.floor(i / 10) * 0.2, 0.04, ((i % 10) - 4.5) / 10],
      size: [0.02, 0.01, 0.02],
    }))
    const mesh = boxes([...planks, ...bolts] as Parameters<typeof boxes>[0])
    const parts = findParts(mesh)
    const { points } = smallView(mesh, parts, SWATCH_WIDTH, SWATCH_HEIGHT)
    const seen = new Set(Array.from(points.triangle, t => parts.parts[parts.partOfTriangle[t]!]!.object))
    const planksSeen = new Set(Array.from(points.triangle, t => parts.partOfTriangle[t]!))
    expect(seen.size).toBe(2)
    for (const [i, part] of parts.parts.entries()) if (part.size[2] > 0.5) expect(planksSeen).toContain(i)
  })
  it('see the nearest surface, and nothing beside the mesh', () => {
    const tables = tablesOf(boxes([{ object: 'a', at: [0, 0, 0] }]))
    const view = smallView(tables.mesh, tables.parts, SWATCH_WIDTH, SWATCH_HEIGHT)
    expect(view.points.count).toBeGreaterThan(500)
    expect(view.points.count).toBeLessThan(SWATCH_WIDTH * SWATCH_HEIGHT * 0.8)
    // From the front, right and above, only those three sides of a box can be seen.
    for (const p of positionsOf(tables, view.points)) expect(Math.max(...p)).toBeCloseTo(0.5, 4)
    expect(samplePoints(tables.mesh, 10).count).toBe(10)
  })
})

describe('what is for later', () => {
  afterEach(() => void vi.restoreAllMocks())
  const plain = { baseColor: [0.3, 0.2, 0.1], roughness: 0.5 }
  const worn = (share: number) =>
    lookOf(
      {
        noise: ['noise', { size: 40 }],
        cover: ['coverage', { share }],
        edge: ['growShrink'],
        more: ['coverage', { share: 30 }],
        below: ['finish', plain as never],
        above: ['finish', { ...plain, roughness: 0.9 } as never],
        layer: ['layer'],
      },
      [
        'noise.value > cover.value',
        'cover.value > edge.value',
        'edge.value > more.value',
        'more.value > layer.mask',
        'below.finish > layer.below',
        'above.finish > layer.above',
        'layer.finish > result.finish',
      ],
    )
  const tables = tablesOf(row(3))
  const fresh = () => new Analyzer(kernels, tables)
  /** Takes all pieces of some work, and does something before each but the first. */
  function inPieces<T>(work: Generator<void, T>, between: () => void = () => {}): { pieces: number; made: T } {
    let pieces = 0
    for (;;) {
      const step = work.next()
      if (step.done) return { pieces, made: step.value }
      pieces++
      between()
    }
  }

  it('is found piece by piece as it is at once, whatever is looked at in between', () => {
    const exact = fresh().gather(worn(20), 'exact', true)
    expect(exact.length).toBeGreaterThan(2)
    const analyzer = fresh()
    analyzer.gather(worn(20), 'hasty', true)
    const place = samplePoints(tables.mesh, 1)
    const { pieces, made } = inPieces(analyzer.gathering(worn(20), 'exact', true), () => {
      analyzer.channelsAt(worn(20), place)
    })
    expect(pieces).toBeGreaterThan(2)
    expect(made).toEqual(exact)
    const analysis = inPieces(fresh().analyzing(worn(20), 'cover', [], 1, 'exact'))
    expect(analysis.pieces).toBeGreaterThan(2)
    expect(analysis.made).toEqual(fresh().analyze(worn(20), 'cover', [], 1, 'exact'))
  })
  it('can be left in the middle for another state, which is then what it would have been', () => {
    const analyzer = fresh()
    const left = analyzer.gathering(worn(20), 'exact', true)
    left.next()
    left.next()
    const values = (of: Analyzer) => of.gather(worn(60), 'exact', true)
    expect(analyzer.gather(worn(60), 'hasty', true)).not.toEqual(values(fresh()))
    expect(values(analyzer)).toEqual(values(fresh()))

    // What comes soon is not what was there before, though better is under way.
    const soon = (of: Analyzer) => of.gather(worn(40), 'hasty', true)
    const begun = analyzer.gathering(worn(40), 'exact', true)
    for (let i = 0; i < 3; i++) begun.next()
    const other = fresh()
    values(other)
    expect(soon(analyzer)).toEqual(soon(other))
    expect(soon(analyzer)).not.toEqual(values(other))
  })
  it('is what it would have been after any number of states that were begun, left, and gone on with', () => {
    const expected = new Map([10, 50, 90].map(share => [share, fresh().gather(worn(share), 'exact', true)]))
    const begin = fc.record({ share: fc.constantFrom(10, 50, 90), pace: fc.constantFrom('hasty', 'soon', 'exact') })
    const goOn = fc.record({ which: fc.nat(3), steps: fc.integer({ min: 1, max: 12 }) })
    fc.assert(
      fc.property(fc.array(fc.oneof(begin, goOn), { maxLength: 12 }), fc.constantFrom(10, 50, 90), (actions, last) => {
        const analyzer = fresh()
        const begun: Generator[] = []
        for (const action of actions) {
          if ('share' in action) begun.unshift(analyzer.gathering(worn(action.share), action.pace, true))
          else for (let i = 0; i < action.steps; i++) begun[action.which]?.next()
        }
        expect(analyzer.gather(worn(last), 'exact', true)).toEqual(expected.get(last))
      }),
      { numRuns: 25 },
    )
  })
  it('goes on with the search for contacts where it was left, for values that look at them', () => {
    const mesh = crowd()
    const crowded = () => new Workpiece(mesh, { ...emptyPreparation(), contact: 0.001 }).tables
    const drawn = (kind: string, params: Record<string, number | string>, to: string) =>
      lookOf({ draw: [kind, params], finish: ['finish'] }, [`draw.${to}`, 'finish.finish > result.finish'])
    const look = drawn('partRandom', { seed: 3, how: 'apart' }, 'value > finish.roughness')
    const exact = new Analyzer(kernels, crowded()).gather(look, 'exact', true)

    const tables = crowded()
    const analyzer = new Analyzer(kernels, tables)
    const hasty = analyzer.gather(look, 'hasty', true)
    expect(hasty).not.toEqual(exact)
    const left = analyzer.gathering(look, 'exact', true)
    for (let i = 0; i < 3; i++) expect(left.next().done).toBe(false)
    expect(tables.touchingKnown!()).toBe(false)
    expect(analyzer.gather(look, 'exact', true)).toEqual(exact)

    // Where nothing is to differ, nothing is searched for.
    const plain = crowded()
    new Analyzer(kernels, plain).gather(drawn('palette', { differ: 0 }, 'color > finish.baseColor'), 'exact', true)
    expect(plain.touchingKnown!()).toBe(false)
  })
  it('are checks, which find nothing of the whole surface that the stage has found', () => {
    const analyzer = fresh()
    const look = worn(0)
    analyzer.gather(look, 'exact', true)
    const asked = vi.spyOn(Evaluator.prototype, 'evaluate')
    const { pieces, made } = inPieces(analyzer.checking(look, 1024))
    expect(pieces).toBeGreaterThan(5)
    expect(asked.mock.calls.length).toBeGreaterThan(0)
    expect(asked.mock.calls.filter(([points]) => points.count >= STATISTIC_POINTS)).toHaveLength(0)
    const laid = LaidLook.of(kernels, tables, look)
    expect(made).toEqual(checkValues(kernels, tables, look, 1024, laid))
    expect(made.map(f => f.message).join()).toMatch(/covers (nothing|everything)/)
  })
})
