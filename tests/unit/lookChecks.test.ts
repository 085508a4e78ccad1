import { describe, expect, it } from 'vitest'
import { heightSlopes, tangentNormals } from '#core/bake/relief'
import { checkValues } from '#core/evaluate/checks'
import { LoneEvaluator } from '#core/evaluate/loneEvaluator'
import { meshTables } from '#core/evaluate/tables'
import type { Finding } from '#core/graph/check'
import { setParams } from '#core/graph/edit'
import type { Look } from '#core/graph/look'
import { findContacts } from '#core/mesh/contacts'
import { findParts } from '#core/mesh/parts'
import { samplePoints } from '#core/mesh/sample'
import { lower, reader } from '#core/program/lower'
import { plan } from '#core/program/plan'
import { ball, boxes, kernels, lookOf, meshOf, row, tablesOf } from '../helpers'

const tables = tablesOf(row(6))
const findings = (look: Look, of = tables, texels?: number): Finding[] => checkValues(kernels, of, look, texels)
const say = (look: Look, of = tables, texels?: number): string =>
  findings(look, of, texels)
    .map(f => f.message)
    .join('\n')
/** What is left of the findings once every first remedy is taken. */
const mended = (look: Look, of = tables): Finding[] =>
  findings(
    findings(look, of).reduce((l, f) => (f.fixes ? setParams(l, f.node!, f.fixes[0]!.set) : l), look),
    of,
  )
const plain = { baseColor: [0.3, 0.2, 0.1], roughness: 0.5 } as const

describe('The checks of values', () => {
  const masked = (share: number) =>
    lookOf(
      {
        n: ['noise'],
        c: ['coverage', { share }],
        a: ['finish', plain as never],
        b: ['finish', { ...plain, baseColor: [0.1, 0.3, 0.1] } as never],
        l: ['layer'],
      },
      ['n.value > c.value', 'c.value > l.mask', 'a.finish > l.below', 'b.finish > l.above', 'l.finish > result.finish'],
    )
  it('find masks that cover nothing or everything, and no others', () => {
    expect(say(masked(0))).toMatch(/^The mask of Layer covers nothing/)
    expect(say(masked(100))).toMatch(/^The mask of Layer covers everything/)
    expect(say(masked(1))).toBe('')
  })
  it('find draws that are the same for all parts, and offer to draw for each', () => {
    const mesh = boxes(
      Array.from({ length: 4 }, (_, i) => ({ object: 'one', at: [i * 2, 0, 0] as [number, number, number] })),
    )
    const one = tablesOf(mesh)
    const look = lookOf({ r: ['partRandom', { level: 'object' }], f: ['finish', plain as never] }, [
      'r.value > f.roughness',
      'f.finish > result.finish',
    ])
    expect(say(look, one)).toContain('draws the same for all 4 parts, so nothing varies: they are one object.')
    expect(mended(look, one)).toEqual([])
  })
  it('find touching parts that a palette cannot tell apart, with their number and which they are', () => {
    const mesh = boxes(
      Array.from({ length: 6 }, (_, i) => ({ object: `box ${i}`, at: [i, 0, 0] as [number, number, number] })),
    )
    const parts = findParts(mesh)
    const contacts = findContacts(mesh, parts, 0.001)
    const touching = meshTables(mesh, parts, [], undefined, () => contacts)
    const look = (colors: object[], differ: number) =>
      lookOf({ p: ['palette', { colors: colors as never, differ }], f: ['finish', plain as never] }, [
        'p.color > f.baseColor',
        'f.finish > result.finish',
      ])
    const red = { at: 1, color: [0.5, 0.02, 0.02] }
    const nearly = { at: 1, color: [0.5, 0.021, 0.02] }
    const blue = { at: 1, color: [0.02, 0.05, 0.5] }
    const said = (of: Look) => findings(of, touching).filter(f => f.message.includes('is asked for'))
    expect(said(look([red, blue], 8))).toEqual([])
    const [found] = said(look([red, nearly], 8))
    expect(found!.message).toMatch(
      /^5 of 5 pairs of touching parts differ by less than the 8 that Palette is asked for/,
    )
    expect([...found!.parts!].sort()).toEqual(parts.parts.map(p => p.key).sort())
    // Four red ones in a row of six: one pair at least stays, of five.
    const [some] = said(
      look(
        [
          { ...red, at: 4 },
          { ...blue, at: 2 },
        ],
        8,
      ),
    )
    expect(some!.message).toMatch(/^1 of 5 pairs/)
    expect(some!.parts).toHaveLength(2)
  })
  it('say where one part is larger than the share of a color by area', () => {
    const mesh = boxes([
      { object: 'a', at: [0, 0, 0], size: [4, 4, 4] },
      { object: 'b', at: [6, 0, 0] },
      { object: 'c', at: [9, 0, 0] },
    ])
    const of = tablesOf(mesh)
    const look = (by: string) =>
      lookOf({ p: ['palette', { by }], f: ['finish', plain as never] }, [
        'p.color > f.baseColor',
        'f.finish > result.finish',
      ])
    const found = findings(look('area'), of).find(f => f.message.includes('divides by area'))
    expect(found!.message).toMatch(/the largest part alone has 89 % of it, more than the 20 % of a color/)
    expect(found!.parts).toEqual([of.parts.parts.find(p => p.size[0] > 3)!.key])
    expect(say(look('count'), of)).not.toContain('divides by area')
  })
  it('find patterns on UVs that are cut into islands', () => {
    const look = lookOf({ n: ['noise', { sits: 'uv' }], f: ['finish', plain as never] }, [
      'n.value > f.roughness',
      'f.finish > result.finish',
    ])
    expect(say(look)).toContain('follows the UVs, which are cut into 36 islands')
    expect(mended(look)).toEqual([])
    const { uvs: _, ...bare } = tables.mesh
    expect(say(look, tablesOf(bare))).toBe('')
  })
  it('find detail that the textures cannot hold, by how large a texel is', () => {
    // Boxes of 6 square meters on UVs of 0.81 * 0.81 of a cell: about 0.09 m a texel at 64, 3 mm at 2048.
    const look = (size: number, detail: number) =>
      lookOf({ n: ['noise', { size, detail }], f: ['finish', plain as never] }, [
        'n.value > f.roughness',
        'f.finish > result.finish',
      ])
    expect(say(look(40, 4), tables, 64)).toContain('smaller than two texels')
    expect(say(look(5, 1), tables, 64)).toContain('is finer than two texels')
    expect(say(look(40, 4), tables, 2048)).toBe('')
    const fixed = findings(look(40, 4), tables, 64)[0]!
    expect(say(setParams(look(40, 4), fixed.node!, fixed.fixes![0]!.set), tables, 64)).toBe('')
  })
  it('find coats through which metal shines, with two ways out', () => {
    const coat = (params: object) =>
      lookOf(
        {
          metal: ['finish', { baseColor: [0.6, 0.6, 0.6], metalness: 1, roughness: 0.5 } as never],
          paint: ['finish', { ...plain, sets: ['baseColor', 'roughness'] } as never],
          n: ['noise', { contrast: 8 }],
          l: ['layer', params as never],
        },
        ['metal.finish > l.below', 'paint.finish > l.above', 'n.value > l.mask', 'l.finish > result.finish'],
      )
    const [found] = findings(coat({})).filter(f => f.message.includes('open'))
    expect(found!.message).toBe(
      'Layer lays a color over and leaves the metalness open, so that of the finish below shines through it.',
    )
    for (const fix of found!.fixes!)
      expect(say(setParams(coat({}), found!.node!, fix.set))).not.toContain('open, so that')
    expect(say(coat({ opens: 'coat' }))).not.toContain('open')
  })
  it('find base colors that nothing real has, dull metals, and metalness that is neither', () => {
    const of = (finish: object) => say(lookOf({ f: ['finish', finish as never] }, ['f.finish > result.finish']))
    expect(of({ baseColor: [0.005, 0.005, 0.005] })).toContain('darker than coal on 100 %')
    expect(of({ baseColor: [0.97, 0.97, 0.97] })).toContain('lighter than fresh snow')
    expect(of({ baseColor: [0.05, 0.05, 0.05], metalness: 1 })).toContain('reflects less than any bare metal')
    expect(of({ baseColor: [0.5, 0.5, 0.5], metalness: 0.5 })).toContain('neither 0 nor 1')
    expect(of({ baseColor: [0.5, 0.5, 0.5], metalness: 1 })).toBe('')
  })
  it('find heights that are too steep', () => {
    const of = (heightScale: number) =>
      say(
        lookOf(
          { n: ['noise', { size: 10, detail: 1, contrast: 2 }], f: ['finish', { ...plain, heightScale } as never] },
          ['n.value > f.height', 'f.finish > result.finish'],
        ),
      )
    expect(of(200)).toContain('steeper than 60°')
    expect(of(5)).toBe('')
  })
  it('find touching parts that look the same although they are drawn for, and offer to have them differ', () => {
    const mesh = boxes(
      Array.from({ length: 30 }, (_, i) => ({
        object: 'wall',
        at: [(i % 6) * 1.01, Math.floor(i / 6) * 1.01, 0] as [number, number, number],
      })),
    )
    const parts = findParts(mesh)
    const contacts = findContacts(mesh, parts, 0.02)
    const wall = meshTables(mesh, parts, [], undefined, () => contacts)
    const six = [
      [0.5, 0.1, 0.1],
      [0.1, 0.4, 0.1],
      [0.1, 0.1, 0.5],
      [0.5, 0.5, 0.1],
      [0.1, 0.5, 0.5],
      [0.5, 0.1, 0.5],
    ].map(color => ({ at: 1, color }))
    const of = (colors: unknown) =>
      lookOf({ p: ['palette', { colors: colors as never, seed: 4 }], f: ['finish', { roughness: 0.5 }] }, [
        'p.color > f.baseColor',
        'f.finish > result.finish',
      ])
    expect(say(of(six.slice(0, 2)), wall)).toMatch(/\d+ of \d+ pairs of touching parts are too alike/)
    expect(say(of(six), wall)).toBe('')
    expect(mended(of(six.slice(0, 4)), wall)).toEqual([])
    expect(say(of(six.slice(0, 1)), tables)).toBe('')
  })
})

describe('Slopes', () => {
  it('are those of a known height: a ramp of 1 mm to the millimeter is 45 degrees wherever it runs along the surface', () => {
    const round = tablesOf(meshOf(ball(1, 96, 64)))
    const points = samplePoints(round.mesh, 500)
    // Height in millimeters is Y in meters times 1000: on a sphere the slope along the surface is the sine of the way
    // from the top.
    const look = lookOf({ p: ['position', { unit: 'cm' }], f: ['finish', { heightScale: 10 }] }, [
      'p.y > f.height',
      'f.finish > result.finish',
    ])
    const program = lower(look, [])
    const at = (refs: readonly number[]) => (p: typeof points) => {
      const evaluator = new LoneEvaluator(kernels, plan(program, refs), round)
      const out = refs.map(() => new Float32Array(p.count))
      evaluator.refresh(reader(look))
      evaluator.evaluate(p, out)
      return out
    }
    const height = (p: typeof points) => at(program.result.height)(p)[0]!
    const [one, two] = heightSlopes(round, points, height(points), height)
    const found = one.map((s, i) => Math.hypot(s, two[i]!))
    const y = at([program.result.height[0]!])(points)[0]!.map(h => h / 1000 - 1)
    found.forEach((s, i) => expect(Math.abs(s - Math.sqrt(1 - Math.min(1, y[i]! ** 2)))).toBeLessThan(0.05))
  })
  it('give the normals of glTF: a rise toward the right of the picture leans to its left, one toward its top leans down', () => {
    const flat = tablesOf(boxes([{ object: 'a', at: [0, 0, 0], size: [1, 1, 1] }]))
    const points = samplePoints(flat.mesh, 600)
    for (const [axis, lane, sign] of [
      ['u', 0, -1],
      ['v', 1, 1],
    ] as const) {
      const look = lookOf({ p: ['uv'], f: ['finish', { heightScale: 1 }] }, [
        `p.${axis} > f.height`,
        'f.finish > result.finish',
      ])
      const program = lower(look, [])
      const height = (p: typeof points) => {
        const evaluator = new LoneEvaluator(kernels, plan(program, program.result.height), flat)
        const out = [new Float32Array(p.count)]
        evaluator.refresh(reader(look))
        evaluator.evaluate(p, out)
        return out[0]!
      }
      const normals = tangentNormals(flat, points, heightSlopes(flat, points, height(points), height))
      for (let i = 0; i < points.count; i++) {
        expect(Math.sign(normals[lane]![i]!)).toBe(sign)
        expect(Math.abs(normals[1 - lane]![i]!)).toBeLessThan(1e-4)
        expect(Math.hypot(normals[0][i]!, normals[1][i]!, normals[2][i]!)).toBeCloseTo(1, 5)
      }
    }
  })
})
