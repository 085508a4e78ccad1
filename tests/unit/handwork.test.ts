import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { check } from '#core/graph/check'
import { clipOf, parseClip, paste } from '#core/graph/clip'
import { addNode, connect, removeNodes, setParam } from '#core/graph/edit'
import { aligned, distributed, putInto, swapKind } from '#core/graph/handwork'
import { emptyLook, parseLook, type Look } from '#core/graph/look'
import { switchNodes } from '#core/graph/pass'
import { nodeOf } from '#core/graph/find'
import { tidied } from '#core/graph/tidy'
import { foldNodes } from '#core/graph/recipe'
import { samplePoints } from '#core/mesh/sample'
import { KINDS } from '#core/nodes'
import { signature } from '#core/program/lower'
import { at, lookOf, row, tablesOf } from '../helpers'

const tables = tablesOf(row(3))
const points = samplePoints(tables.mesh, 200)
const wires = (look: Look): string[] =>
  look.wires.map(w => `${w.from.node}.${w.from.port} > ${w.to.node}.${w.to.port}`).sort()
const chain = lookOf({ n: ['noise'], l: ['levels', { gamma: 2 }], i: ['invert'], f: ['finish'] }, [
  'n.value > l.value',
  'l.value > i.value',
  'i.value > f.roughness',
  'f.finish > result.finish',
])
const value = (look: Look, port: string) => [...at(look, tables, port, points)[0]!]

describe('Switching off', () => {
  it('lets what comes in pass through, and back on is what was', () => {
    const off = switchNodes(chain, ['levels1'], true)
    expect(value(off, 'levels1/value')).toEqual(value(chain, 'noise1/value'))
    expect(value(off, 'invert1/value')).toEqual(value(chain, 'noise1/value').map(x => Math.fround(1 - x)))
    expect(switchNodes(off, ['levels1'], false)).toEqual(chain)
    expect(parseLook(JSON.parse(JSON.stringify(off)))).toEqual(off)
    expect(signature(off)).not.toBe(signature(chain))
  })
  it('several in a row pass through all of them, in recipes and out', () => {
    const off = switchNodes(chain, ['levels1', 'invert1'], true)
    expect(value(off, 'invert1/value')).toEqual(value(chain, 'noise1/value'))
    const folded = foldNodes(chain, ['levels1', 'invert1'], 'Both')
    const port = `${folded.id}/${nodeOf(folded.look, folded.id!)!.recipe!.outputs[0]!.name}`
    const inner = folded.look.nodes.map(n =>
      n.recipe ? { ...n, recipe: { ...n.recipe, nodes: n.recipe.nodes.map(x => ({ ...x, off: true as const })) } } : n,
    )
    expect(value({ ...folded.look, nodes: inner }, port)).toEqual(value(chain, 'noise1/value'))
    expect(value(switchNodes(folded.look, [folded.id!], true), port)).toEqual(value(chain, 'noise1/value'))
  })
  it('a source counts as an open port, and is no finding', () => {
    const off = switchNodes(setParam(chain, 'levels1', 'value', 0.5), ['noise1'], true)
    expect(new Set(value(off, 'levels1/value')).size).toBe(1)
    expect(
      check(switchNodes(chain, ['levels1', 'noise1'], true)).filter(f => f.node === 'noise1' || f.node === 'levels1'),
    ).toEqual([])
  })
})

describe('Taking out and putting in', () => {
  it('a node taken out heals the wire that it sat on, several in a row too', () => {
    expect(wires(removeNodes(chain, ['levels1']))).toEqual([
      'finish1.finish > result.finish',
      'invert1.value > finish1.roughness',
      'noise1.value > invert1.value',
    ])
    expect(wires(removeNodes(chain, ['levels1', 'invert1']))).toEqual([
      'finish1.finish > result.finish',
      'noise1.value > finish1.roughness',
    ])
    expect(wires(removeNodes(chain, ['noise1']))).toEqual([
      'finish1.finish > result.finish',
      'invert1.value > finish1.roughness',
      'levels1.value > invert1.value',
    ])
  })
  it('a layer taken out leaves what was below it', () => {
    const look = lookOf({ a: ['finish'], b: ['finish'], l: ['layer'], m: ['layer'] }, [
      'a.finish > l.below',
      'b.finish > l.above',
      'l.finish > m.below',
      'm.finish > result.finish',
    ])
    expect(wires(removeNodes(look, ['layer1']))).toEqual([
      'finish1.finish > layer2.below',
      'layer2.finish > result.finish',
    ])
  })
  it('put into a wire and taken out again, the look is as it was', () => {
    const wire = chain.wires.find(w => w.from.node === 'noise1')!
    const added = addNode(chain, 'steps', [0, 0])
    const put = putInto(added.look, added.id, wire)
    expect(wires(put)).toContain('noise1.value > steps1.value')
    expect(wires(put)).toContain('steps1.value > levels1.value')
    expect(wires(removeNodes(put, [added.id]))).toEqual(wires(chain))
  })
  it('refuses what does not fit or would feed itself', () => {
    const color = addNode(chain, 'finish', [0, 0])
    expect(putInto(color.look, color.id, chain.wires[0]!)).toBe(color.look)
    expect(
      putInto(
        chain,
        'invert1',
        chain.wires.find(w => w.from.node === 'noise1')!,
      ),
    ).toBe(chain)
  })
})

describe('Another kind', () => {
  it('keeps id, name, place, settings and wires that fit', () => {
    const look = setParam(setParam(chain, 'noise1', 'size', 33), 'noise1', 'seed', 9)
    const next = swapKind(look, 'noise1', 'grunge')
    expect(nodeOf(next, 'noise1')).toMatchObject({ kind: 'grunge', params: { size: 33, seed: 9 } })
    expect(wires(next)).toEqual(wires(chain))
    expect(wires(swapKind(chain, 'levels1', 'coverage'))).toEqual(wires(chain))
  })
  it('is a sound look whatever the kinds', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(...KINDS.filter(k => k.kind !== 'result').map(k => k.kind)),
        fc.constantFrom('noise1', 'levels1', 'invert1', 'finish1'),
        (kind, id) => {
          const next = swapKind(chain, id, kind)
          expect(parseLook(JSON.parse(JSON.stringify(next)))).toEqual(next)
          expect(check(next).filter(f => f.severity === 'error')).toEqual([])
        },
      ),
      { numRuns: 80 },
    ))
})

describe('The clipboard', () => {
  it('carries nodes with their wires as text, to any look', () => {
    const clip = parseClip(JSON.stringify(clipOf(chain, ['noise1', 'levels1', 'result'])))
    const { look, ids } = paste(emptyLook(), clip, [500, 100])
    expect(ids).toHaveLength(2)
    expect(wires(look)).toEqual(['noise1.value > levels1.value'])
    expect(Math.min(...ids.map(id => nodeOf(look, id)!.at[0]))).toBe(500)
    expect(nodeOf(look, 'levels1')!.params.gamma).toBe(2)
  })
  it('pasted where it came from, gets ids of its own and changes nothing else', () => {
    const { look, ids } = paste(
      chain,
      clipOf(
        chain,
        chain.nodes.map(n => n.id),
      ),
      [0, 0],
    )
    expect(new Set(look.nodes.map(n => n.id)).size).toBe(9)
    expect(look.nodes.slice(0, 5)).toEqual(chain.nodes)
    expect(parseLook(JSON.parse(JSON.stringify(look)))).toEqual(look)
    expect(ids).toHaveLength(4)
  })
  it('says in a sentence what cannot be pasted', () => {
    for (const text of ['hello', '{"a":1}', '[]'])
      expect(() => parseClip(text)).toThrow('The clipboard holds no nodes.')
    expect(() => parseClip(JSON.stringify({ ...clipOf(chain, ['noise1']), version: 2 }))).toThrow(
      'cannot be read by this version',
    )
    expect(() => parseClip(JSON.stringify({ ...clipOf(chain, ['noise1']), wires: chain.wires }))).toThrow(
      'a wire ends at',
    )
  })
})

describe('Arranging', () => {
  const sizes = () => ({ width: 160, height: 200 })
  const places = fc.array(fc.tuple(fc.integer({ min: -2000, max: 2000 }), fc.integer({ min: -2000, max: 2000 })), {
    minLength: 5,
    maxLength: 5,
  })
  const placed = (at: [number, number][]): Look => ({
    ...chain,
    nodes: chain.nodes.map((n, i) => ({ ...n, at: at[i]! })),
  })
  it('lines up along an edge, moving nothing the other way', () =>
    fc.assert(
      fc.property(places, fc.constantFrom('left', 'right', 'top', 'bottom', 'middle', 'center'), (at, edge) => {
        const { nodes } = placed(at)
        const out = aligned(nodes, edge, sizes)
        const axis = ['left', 'right', 'middle'].includes(edge) ? 0 : 1
        expect(new Set([...out.values()].map(p => p[axis])).size).toBe(1)
        nodes.forEach(n => expect(out.get(n.id)![1 - axis]).toBe(n.at[1 - axis]))
      }),
    ))
  it('spreads with even gaps between the outermost two', () =>
    fc.assert(
      fc.property(places, at => {
        const { nodes } = placed(at)
        const out = [...distributed(nodes, 0, sizes).values()].map(p => p[0])
        const gaps = out.slice(1).map((x, i) => x - out[i]!)
        expect(Math.max(...gaps) - Math.min(...gaps)).toBeLessThanOrEqual(1)
        expect([out[0], out.at(-1)]).toEqual([Math.min(...at.map(p => p[0])), Math.max(...at.map(p => p[0]))])
      }),
    ))
  it('tidies into columns from source to result, without overlaps, and does the same again', () =>
    fc.assert(
      fc.property(places, at => {
        const look = placed(at)
        const out = tidied(
          look,
          look.nodes.map(n => n.id),
          sizes,
        )
        const all = [...out.values()]
        for (const w of look.wires)
          expect(out.get(w.to.node)![0] - out.get(w.from.node)![0]).toBeGreaterThanOrEqual(160)
        all.forEach((p, i) =>
          all
            .slice(i + 1)
            .forEach(q => expect(Math.abs(p[0] - q[0]) >= 160 || Math.abs(p[1] - q[1]) >= 200).toBe(true)),
        )
        expect([Math.min(...all.map(p => p[0])), Math.min(...all.map(p => p[1]))]).toEqual([
          Math.min(...at.map(p => p[0])),
          Math.min(...at.map(p => p[1])),
        ])
      }),
      { numRuns: 20 },
    ))
})

describe('Wires of one look', () => {
  it('survive any number of nodes being put in and taken out', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom('levels', 'invert', 'steps', 'curve'), fc.nat()), { maxLength: 6 }),
        puts => {
          const ids: string[] = []
          const grown = puts.reduce((look, [kind, pick]) => {
            const added = addNode(look, kind, [0, 0])
            const candidates = look.wires.filter(w => w.to.node !== 'result' && w.from.node !== 'finish1')
            ids.push(added.id)
            return putInto(added.look, added.id, candidates[pick % candidates.length]!)
          }, chain)
          expect(check(grown).filter(f => f.severity === 'error')).toEqual([])
          expect(wires(removeNodes(grown, ids))).toEqual(wires(chain))
          expect(connect(grown, { node: 'noise1', port: 'value' }, { node: 'noise1', port: 'bend' })).toBe(grown)
        },
      ),
      { numRuns: 40 },
    ))
})
