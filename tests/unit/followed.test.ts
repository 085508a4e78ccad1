import fc from 'fast-check'
import { describe, expect, it, vi } from 'vitest'
import { Analyzer } from '#core/evaluate/analysis'
import { Evaluator } from '#core/evaluate/evaluator'
import { FollowingEvaluator } from '#core/evaluate/followed'
import { Gatherer, type WholeValues } from '#core/evaluate/gather'
import { setParam } from '#core/graph/edit'
import { kindFor } from '#core/graph/kinds'
import { samplePoints } from '#core/mesh/sample'
import { lower, reader, refsOf } from '#core/program/lower'
import { kioskRoofMossLook } from '../../demo/kioskRoofMossLook'
import { ball, kernels, lookOf, meshOf, row, tablesOf } from '../helpers'

const tables = tablesOf(row(3))
const points = samplePoints(tables.mesh, 500)

describe('values that follow a look', () => {
  const look = kioskRoofMossLook()
  const program = lower(look, tables.mesh.maps)
  const roots = [...program.outputs.values()].flatMap(value => refsOf(value))
  const following = (): FollowingEvaluator =>
    new FollowingEvaluator(kernels, program, roots, tables, new Gatherer(kernels, program, tables, 'here', 512))
  const numbers = look.nodes.flatMap(n =>
    Object.entries(kindFor(n)?.params ?? {}).flatMap(([name, d]) =>
      d.type === 'number' && !n.recipe ? [{ node: n.id, name, d }] : [],
    ),
  )

  it('are those of a first run, after any run of changes, at points that were looked at now and then', () => {
    const values = following()
    const often = values.follow(points)
    const seldom = values.follow(samplePoints(tables.mesh, 90))
    let now = look
    fc.assert(
      fc.property(
        fc.nat(numbers.length - 1),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.boolean(),
        (which, share, both) => {
          const { node, name, d } = numbers[which]!
          now = setParam(now, node, name, d.min + (d.max - d.min) * share)
          values.refresh(reader(now))
          const first = following()
          first.refresh(reader(now))
          for (const followed of both ? [often, seldom] : [often]) {
            values.bring(followed)
            const fresh = first.follow(followed.points)
            first.bring(fresh)
            for (const [ref, column] of fresh.columns) expect([...followed.columns.get(ref)!]).toEqual([...column])
          }
        },
      ),
      { numRuns: 30 },
    )
  })
  it('are computed again only where the change goes', () => {
    const chain = lookOf({ noise: ['noise'], levels: ['levels'], color: ['color'], finish: ['finish'] }, [
      'noise.value > levels.value',
      'levels.value > finish.roughness',
      'color.color > finish.baseColor',
      'finish.finish > result.finish',
    ])
    const lowered = lower(chain, [])
    const refs = (port: string) => refsOf(lowered.outputs.get(port)!)
    const all = ['noise1/value', 'levels1/value', 'color1/color'].flatMap(refs)
    const values = new FollowingEvaluator(kernels, lowered, all, tables, new Gatherer(kernels, lowered, tables))
    values.refresh(reader(chain))
    const followed = values.follow(points)
    expect([...values.bring(followed)].sort()).toEqual([...new Set(all)].sort())
    const noise = followed.columns.get(refs('noise1/value')[0]!)!
    // The noise is not run again: the levels read what is kept of it.
    noise.fill(0.25)
    values.refresh(reader(setParam(chain, 'levels1', 'outLow', 0.5)))
    expect([...values.bring(followed)]).toEqual(refs('levels1/value'))
    const levels = followed.columns.get(refs('levels1/value')[0]!)!
    expect(new Set(levels).size).toBe(1)
    expect(levels[0]).toBeCloseTo(0.625, 5)
  })
})

describe('statistics', () => {
  const look = lookOf(
    {
      one: ['noise', { size: 4 }],
      two: ['noise', { size: 9 }],
      under: ['coverage', { share: 30 }],
      over: ['coverage', { share: 60 }],
      finish: ['finish'],
    },
    [
      'one.value > under.value',
      'two.value > over.value',
      'under.value > finish.roughness',
      'over.value > finish.metalness',
      'finish.finish > result.finish',
    ],
  )
  it('that nothing has changed stay exact while another number is dragged', () => {
    const analyzer = new Analyzer(kernels, tables)
    const exact = new Map(analyzer.gather(look, 'exact', true).map(({ ref, value }) => [ref, value]))
    const dragged = setParam(look, 'coverage2', 'share', 45)
    const soon = analyzer.gather(dragged, 'hasty', false)
    expect(soon.length).toBeGreaterThan(0)
    expect(soon.length).toBeLessThan(exact.size)
    // What came has another value; of the rest nothing was found out anew.
    for (const { ref, value } of soon) expect(value).not.toBe(exact.get(ref))
    // When the hands rest, only that is found out from all points.
    const late = analyzer.gather(dragged, 'exact', false)
    expect(late.map(v => v.ref).filter(ref => !soon.some(v => v.ref === ref))).toEqual([])
  })
  it('that were found ahead are sent when they are asked for, and not found again', () => {
    const analyzer = new Analyzer(kernels, tables)
    expect([...analyzer.foresee(look)].length).toBeGreaterThan(1)
    const evaluate = vi.spyOn(Evaluator.prototype, 'evaluate')
    const values = analyzer.gather(look, 'hasty', true)
    expect(evaluate).not.toHaveBeenCalled()
    evaluate.mockRestore()
    expect(values).toEqual(new Analyzer(kernels, tables).gather(look, 'hasty', true))
    expect(values.length).toBeGreaterThan(0)
  })
  it('come hastily from masks as they are, and softened exactly; a drag then goes on with softened ones', () => {
    const soft = lookOf({ noise: ['noise', { size: 400 }], soften: ['soften', { radius: 300 }], finish: ['finish'] }, [
      'noise.value > soften.value',
      'soften.value > finish.roughness',
      'finish.finish > result.finish',
    ])
    const round = tablesOf(meshOf(ball(1, 48, 32)))
    const columnOf = (values: WholeValues): number[] => [...(values[0]!.value as Float32Array)]
    const spread = (column: number[]): number => Math.max(...column) - Math.min(...column)
    const analyzer = new Analyzer(kernels, round)
    const hasty = columnOf(analyzer.gather(soft, 'hasty', true))
    const exact = columnOf(analyzer.gather(soft, 'exact', true))
    expect(spread(exact)).toBeLessThan(spread(hasty) * 0.8)
    const dragged = setParam(soft, 'noise1', 'size', 700)
    const now = columnOf(analyzer.gather(dragged, 'hasty', true))
    expect(now).not.toEqual(exact)
    expect(now).toEqual(columnOf(new Analyzer(kernels, round).gather(dragged, 'exact', true)))
  })
})
