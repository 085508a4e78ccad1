import { describe, expect, it } from 'vitest'
import { check } from '#core/graph/check'
import { CHANNEL_NAMES, CHANNELS, type Channel } from '#core/graph/types'
import { LoneEvaluator } from '#core/evaluate/loneEvaluator'
import { meshTables, type MeshTables } from '#core/evaluate/tables'
import { findParts } from '#core/mesh/parts'
import { pointSet } from '#core/mesh/sample'
import type { Look } from '#core/graph/look'
import { lower, reader } from '#core/program/lower'
import { plan } from '#core/program/plan'
import { kernels, lookOf, row, tablesOf } from '../helpers'

const tables = tablesOf(row(3))

/** Every channel of a look's result at the first point of a part. */
function channels(look: Look, of: MeshTables = tables, part = 0): Record<Channel, number[]> {
  const program = lower(look, [])
  const roots = CHANNEL_NAMES.flatMap(c => program.result[c])
  const points = pointSet(1)
  points.triangle[0] = of.parts.partOfTriangle.indexOf(part)
  const evaluator = new LoneEvaluator(kernels, plan(program, roots), of)
  const columns = roots.map(() => new Float32Array(1))
  evaluator.refresh(reader(look))
  evaluator.evaluate(points, columns)
  return Object.fromEntries(
    CHANNEL_NAMES.map(c => [c, columns.splice(0, CHANNELS[c].size).map(x => Number(x[0]!.toFixed(5)))]),
  ) as Record<Channel, number[]>
}
const ALL = CHANNEL_NAMES

describe('Finish', () => {
  it('sets the channels that it says, and those with a wire', () => {
    const plain = lower(lookOf({ f: ['finish'] }, ['f.finish > result.finish']), [])
    expect([...plain.sets]).toEqual(['baseColor', 'metalness', 'roughness'])
    const wired = lower(
      lookOf({ v: ['value'], f: ['finish', { sets: ['roughness'] }] }, [
        'v.value > f.height',
        'v.value > f.throughColor',
        'f.finish > result.finish',
      ]),
      [],
    )
    expect([...wired.sets]).toEqual(['roughness', 'height', 'translucency'])
  })
  it('has height in millimeters by its scale, light by its intensity, and holds shares between 0 and 1', () => {
    const look = lookOf(
      {
        f: [
          'finish',
          {
            sets: [...ALL],
            height: 0.5,
            heightScale: 4,
            emission: [0.2, 0.4, 0],
            intensity: 10,
            opacity: 1,
            translucency: 0.25,
            throughColor: [1, 0.5, 0],
          },
        ],
      },
      ['f.finish > result.finish'],
    )
    expect(channels(look)).toMatchObject({
      height: [2],
      emission: [2, 4, 0],
      opacity: [1],
      translucency: [0.25, 1, 0.5, 0],
    })
  })
  it('shows the fallback of a channel that nothing sets', () => {
    const got = channels(
      lookOf({ f: ['finish', { sets: ['roughness'], roughness: 0.3 }] }, ['f.finish > result.finish']),
    )
    expect(got).toEqual({ ...Object.fromEntries(ALL.map(c => [c, [...CHANNELS[c].fallback]])), roughness: [0.3] })
  })
})

describe('Layer over other channels', () => {
  const below: [string, Record<string, never>] = [
    'finish',
    {
      sets: [...ALL],
      metalness: 1,
      roughness: 0.2,
      height: 3,
      emission: [1, 0, 0],
      opacity: 0.5,
      translucency: 0.5,
    } as never,
  ]
  const paint = (params: object, sets: Channel[], own: object = {}): Look =>
    lookOf({ below, above: ['finish', { sets, ...own } as never], l: ['layer', params as never] }, [
      'below.finish > l.below',
      'above.finish > l.above',
      'l.finish > result.finish',
    ])
  it('lets channels through that the upper finish leaves open', () => {
    expect(channels(paint({ mask: 1 }, ['baseColor']))).toMatchObject({
      metalness: [1],
      roughness: [0.2],
      height: [3],
      emission: [1, 0, 0],
      opacity: [0.5],
    })
  })
  it('as an opaque coat fills them all, and lies on the surface as it is', () => {
    expect(channels(paint({ mask: 1, opens: 'coat' }, ['baseColor']))).toMatchObject({
      metalness: [0],
      roughness: [0.5],
      height: [3],
      emission: [0, 0, 0],
      opacity: [1],
      translucency: [0, 1, 1, 1],
    })
    expect(channels(paint({ mask: 0, opens: 'coat' }, ['baseColor']))).toMatchObject({
      metalness: [1],
      emission: [1, 0, 0],
    })
  })
  it('without anything above coats nothing', () => {
    expect(
      channels(
        lookOf({ below, l: ['layer', { opens: 'coat' }] }, ['below.finish > l.below', 'l.finish > result.finish']),
      ),
    ).toMatchObject({ metalness: [1] })
  })
  it.each([
    ['add', 3.5],
    ['blend', 2],
    ['higher', 3],
    ['cover', 3],
    ['leave', 3],
  ])('%s: heights of 3 and 1 at half a mask make %f', (way, height) => {
    expect(channels(paint({ mask: 0.5, channels: 'each', heightWay: way }, ['height'], { height: 1 }))).toMatchObject({
      height: [height],
    })
  })
  it('weighs each channel by its own amount', () => {
    expect(
      channels(
        paint({ mask: 1, channels: 'each', roughnessAmount: 0.5, metalnessAmount: 0.25 }, ['metalness', 'roughness'], {
          metalness: 0,
          roughness: 0.8,
        }),
      ),
    ).toMatchObject({ metalness: [0.75], roughness: [0.5] })
  })
})

describe('By part set', () => {
  const mesh = row(3)
  const parts = findParts(mesh)
  const set = (name: string, ...members: number[]) => ({
    set: { id: name, name, rules: [], plus: [], minus: [] } as never,
    members: Uint8Array.from([0, 1, 2], i => Number(members.includes(i))),
  })
  const sets = meshTables(mesh, parts, [set('first', 0), set('front', 0, 1)])
  const look = lookOf(
    {
      rest: ['finish', { roughness: 0.1, metalness: 1 }],
      a: ['finish', { roughness: 0.9, sets: ['roughness'] }],
      b: ['finish', { roughness: 0.6, metalness: 0.5 }],
      s: ['bySet', { setA: 'first', setB: 'front' }],
    },
    ['rest.finish > s.rest', 'a.finish > s.a', 'b.finish > s.b', 's.finish > result.finish'],
  )
  it('takes the first set that holds the part; channels left alone fall through', () => {
    expect([0, 1, 2].map(p => channels(look, sets, p)).map(c => [c.roughness[0], c.metalness[0]])).toEqual([
      [0.9, 0.5],
      [0.6, 0.5],
      [0.1, 1],
    ])
  })
  it('does not ask for sets that no finish waits for', () => {
    expect(check(look, { sets: ['first', 'front'] }).filter(f => f.message.includes('part set'))).toEqual([])
  })
})
