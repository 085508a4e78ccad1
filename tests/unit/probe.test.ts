import { describe, expect, it } from 'vitest'
import { LoneEvaluator } from '#core/evaluate/loneEvaluator'
import { Analyzer } from '#core/evaluate/analysis'
import { CHANNEL_NAMES } from '#core/graph/types'
import { samplePoints } from '#core/mesh/sample'
import { lower, reader } from '#core/program/lower'
import { plan } from '#core/program/plan'
import { probe } from '#core/program/probe'
import { lookShader } from '#core/shader/glsl'
import { at, kernels, lookOf, row, tablesOf } from '../helpers'

const tables = tablesOf(row(4))
const points = samplePoints(tables.mesh, 300)
const look = lookOf(
  {
    n: ['noise', { size: 30 }],
    r: ['ramp'],
    c: ['coverage', { share: 30 }],
    f: ['finish', { sets: ['baseColor'], baseColor: [0.2, 0.3, 0.4] }],
    g: ['finish'],
  },
  ['n.value > r.value', 'n.value > c.value', 'r.color > g.baseColor', 'g.finish > result.finish'],
)
const whole = lower(look, [])
/** Every channel of what a port shows, at the points. */
function shown(port: string) {
  const probed = probe(whole, port)!
  const prepared = plan(
    probed.program,
    CHANNEL_NAMES.flatMap(c => probed.program.result[c]),
  )
  const evaluator = new LoneEvaluator(kernels, prepared, tables)
  const columns = prepared.roots.map(() => new Float32Array(points.count))
  evaluator.refresh(reader(look))
  evaluator.evaluate(points, columns)
  // The stage can make a shader of it.
  expect(lookShader(prepared).roots).toHaveLength(prepared.roots.length)
  return {
    ...probed,
    channels: Object.fromEntries(CHANNEL_NAMES.map(c => [c, columns.splice(0, probed.program.result[c].length)])),
  }
}

describe('Looking at a port', () => {
  it('shows a number where the height would be, and three where the emission would be, as they are', () => {
    const value = shown('noise1/value')
    const color = shown('ramp1/color')
    expect([value.shows, color.shows]).toEqual(['value', 'color'])
    expect(value.channels.height).toEqual(at(look, tables, 'noise1/value', points))
    expect(color.channels.emission).toEqual(at(look, tables, 'ramp1/color', points))
  })
  it('shows a finish as if it were the result; what it leaves alone is what shows where nothing is set', () => {
    const { shows, channels, program } = shown('finish1/finish')
    expect(shows).toBe('finish')
    expect([...program.sets]).toEqual(['baseColor'])
    expect(CHANNEL_NAMES.map(c => channels[c]!.map(x => Number(x[17]!.toFixed(4))))).toEqual([
      [0.2, 0.3, 0.4],
      [0],
      [0.5],
      [0],
      [0, 0, 0],
      [1],
      [0, 1, 1, 1],
    ])
  })
  it('knows of no port that is not there', () => expect(probe(whole, 'noise1/nothing')).toBeUndefined())
  it('gathers what the port needs, though the result does not', () => {
    const analyzer = new Analyzer(kernels, tables)
    expect(analyzer.gather(look, 'soon', true)).toEqual([])
    // The value that the share exceeds, and those that say how far the values reach.
    const edges = analyzer.gather(look, 'soon', true, 'coverage1/value')
    const values = at(look, tables, 'noise1/value', samplePoints(tables.mesh, 4000))[0]!
    const shares = edges.map(e => values.filter(x => x > Number(e.value)).length / 4000).sort()
    expect(shares).toHaveLength(3)
    expect(Math.abs(shares[1]! - 0.3)).toBeLessThan(0.02)
  })
  it('measures what share of the surface is above a half', () => {
    const { ports } = new Analyzer(kernels, tables).analyze(look)
    const mean = at(look, tables, 'coverage1/value', samplePoints(tables.mesh, 5000))[0]!
    expect(ports['coverage1/value']!.covered).toBeCloseTo(mean.filter(x => x > 0.5).length / 5000, 2)
  })
})
