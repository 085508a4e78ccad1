import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { evaluateArithmetic } from '../../app/shared/arithmetic'
import { History } from '../../app/project/history'
import { clipOf, parseClip, paste } from '#core/graph/clip'
import { putInto, swapKind } from '#core/graph/handwork'
import { kindFor } from '#core/graph/kinds'
import { switchNodes } from '#core/graph/pass'
import { addRecipeStep, addStep, duplicateStep, moveStep, removeStep, stripOf } from '#core/graph/strip'
import { tidied } from '#core/graph/tidy'
import { RECIPES } from '#core/recipes'
import { check, inOrder, nearest } from '#core/graph/check'
import {
  addNode,
  connect,
  connectThrough,
  disconnect,
  duplicateNodes,
  moveNodes,
  removeNodes,
  renameNode,
  setParam,
  setParams,
} from '#core/graph/edit'
import { emptyLook, LookError, parseLook, type Look } from '#core/graph/look'
import { reaches, refusal, type Port } from '#core/graph/ports'
import { KINDS } from '#core/nodes'
import type { ParamValue } from '#core/nodes/declare'
import { floatRackLook } from '#demo/floatRackLook'
import { lookOf } from '../helpers'

describe('reading a look', () => {
  it('takes what it wrote', () =>
    expect(parseLook(JSON.parse(JSON.stringify(floatRackLook())))).toEqual(floatRackLook()))
  const bad: [string, (look: Look) => unknown, RegExp][] = [
    ['nothing', () => null, /not a look/],
    ['text', () => 'look', /not a look/],
    ['another version', l => ({ ...l, version: 2 }), /newer version \(2/],
    ['a key too many', l => ({ ...l, extra: 1 }), /extra/],
    ['a place that is not a number', l => ({ ...l, nodes: [{ ...l.nodes[0], at: [0, null] }] }), /nodes\.0\.at\.1/],
    ['a node twice', l => ({ ...l, nodes: [...l.nodes, ...l.nodes] }), /two nodes have the id "result"/],
    [
      'a wire to nowhere',
      l => ({ ...l, wires: [{ from: { node: 'gone', port: 'x' }, to: { node: 'result', port: 'finish' } }] }),
      /"gone", which is not there/,
    ],
    [
      'two wires into one input',
      l => {
        const w = { from: { node: 'result', port: 'x' }, to: { node: 'result', port: 'finish' } }
        return { ...l, wires: [w, w] }
      },
      /two wires lead into result\/finish/,
    ],
  ]
  it.each(bad)('refuses %s in one sentence', (_, change, message) => {
    const read = () => parseLook(change(emptyLook()))
    expect(read).toThrow(LookError)
    expect(read).toThrow(message)
  })
})

describe('wires', () => {
  const look = lookOf({ color: ['color'], levels: ['levels'], finish: ['finish'], math: ['math'] }, [
    'levels.value > math.a',
  ])
  const port = (text: string) => ({ node: text.split('.')[0]!, port: text.split('.')[1]! })
  it('convert value and color into one another, and nothing into a finish', () => {
    expect(refusal(look, port('color1.color'), port('levels1.value'))).toBeNull()
    expect(refusal(look, port('levels1.value'), port('finish1.baseColor'))).toBeNull()
    expect(refusal(look, port('finish1.finish'), port('levels1.value'))?.reason).toBe(
      'Value takes a value; Finish is a finish.',
    )
  })
  it('say why they are refused and what would help', () => {
    const why = refusal(look, port('color1.color'), port('result.finish'))!
    expect(why.reason).toBe('Finish takes a finish; Color is a color.')
    const fixed = connectThrough(look, port('color1.color'), port('result.finish'))
    expect(fixed.wires.map(w => `${w.from.node}.${w.from.port}>${w.to.node}.${w.to.port}`)).toEqual([
      'levels1.value>math1.a',
      'color1.color>finish2.baseColor',
      'finish2.finish>result.finish',
    ])
  })
  it('never make a loop', () => {
    expect(refusal(look, port('math1.value'), port('levels1.value'))?.reason).toMatch(/loop/)
    expect(refusal(look, port('math1.value'), port('math1.b'))?.reason).toMatch(/loop/)
    expect(connect(look, port('math1.value'), port('levels1.value'))).toBe(look)
  })
  it('replace the wire that was in the input', () => {
    const next = connect(look, port('color1.color'), port('math1.a'))
    expect(next.wires).toEqual([{ from: port('color1.color'), to: port('math1.a') }])
  })
  it('have their two ends and nothing that whoever drew them knows besides, so that the look can be saved', () => {
    const drawn = { ...port('color1.color'), source: true }
    const next = connect(look, drawn, { ...port('math1.a'), title: 'First' } as Port)
    expect(next.wires).toEqual([{ from: port('color1.color'), to: port('math1.a') }])
    expect(parseLook(JSON.parse(JSON.stringify(next)))).toEqual(next)
  })
})

describe('edits', () => {
  it('give every new seed a number of its own', () => {
    let look = emptyLook()
    for (const kind of ['noise', 'partRandom', 'noise', 'noise']) look = addNode(look, kind, [0, 0]).look
    const seeds = look.nodes.map(n => n.params.seed).filter(s => s !== undefined)
    expect(new Set(seeds).size).toBe(4)
  })
  it('hold numbers inside their limits, and forget what is the default again', () => {
    const look = addNode(emptyLook(), 'noise', [0, 0]).look
    expect(setParam(look, 'noise1', 'detail', 99.4).nodes[1]!.params.detail).toBe(10)
    expect(
      setParam(setParam(look, 'noise1', 'size', 5), 'noise1', 'size', undefined).nodes[1]!.params,
    ).not.toHaveProperty('size')
    expect(setParam(look, 'noise1', 'nonsense', 5)).toBe(look)
  })
  it('take away a wire that no longer fits when a choice changes a port, and keep one that does', () => {
    const look = lookOf({ color: ['color'], mix: ['mix'], finish: ['finish'] }, [
      'color.color > mix.a',
      'mix.out > finish.baseColor',
    ])
    expect(setParam(look, 'mix1', 'what', 'value').wires).toHaveLength(2)
  })
  it('keep the Result, and one only', () => {
    const look = emptyLook()
    expect(removeNodes(look, ['result'])).toBe(look)
    expect(addNode(look, 'result', [5, 5]).look).toBe(look)
    const two = addNode(look, 'noise', [0, 0])
    expect(swapKind(two.look, two.id, 'result')).toBe(two.look)
  })
  it('copy nodes with the wires among them and into them', () => {
    const look = lookOf({ noise: ['noise'], levels: ['levels'], math: ['math'] }, [
      'noise.value > levels.value',
      'levels.value > math.a',
    ])
    const { look: next, ids } = duplicateNodes(look, ['levels1', 'math1'])
    expect(ids).toEqual(['levels2', 'math2'])
    expect(next.wires.slice(2).map(w => `${w.from.node}>${w.to.node}`)).toEqual(['noise1>levels2', 'levels2>math2'])
  })

  /** Any edit that the interface can make, with any arguments. */
  const anyEdit = fc.record({
    kind: fc.nat(),
    a: fc.nat(),
    b: fc.nat(),
    x: fc.double({ min: -1e4, max: 1e4, noNaN: true }).map(x => x + 0),
  })
  function apply(look: Look, e: { kind: number; a: number; b: number; x: number }): Look {
    const node = (n: number) => look.nodes[n % look.nodes.length]!
    const kind = KINDS[e.a % KINDS.length]!
    const target = node(e.b)
    const own = kindFor(target)!
    const names = [...Object.keys(own.params), ...Object.keys(own.inputs)]
    const ids = look.nodes.filter((_, i) => (i + e.b) % 2).map(n => n.id)
    const chain = stripOf(look)?.steps ?? []
    switch (e.kind % 18) {
      case 0:
      case 1:
        return addNode(look, kind.kind, [e.x, e.x]).look
      case 2:
        return removeNodes(look, [node(e.a).id])
      case 3: {
        const from = node(e.a)
        const outs = Object.keys(kindFor(from)!.outputs)
        const ins = Object.keys(own.inputs)
        return outs.length && ins.length
          ? connect(
              look,
              { node: from.id, port: outs[e.b % outs.length]! },
              { node: target.id, port: ins[e.a % ins.length]! },
            )
          : look
      }
      case 4:
        return look.wires.length ? disconnect(look, [look.wires[e.a % look.wires.length]!]) : look
      case 5:
        return names.length
          ? setParam(
              look,
              target.id,
              names[e.a % names.length]!,
              own.params[names[e.a % names.length]!]?.type === 'number' ? e.x : undefined,
            )
          : look
      case 6:
        return moveNodes(look, new Map([[target.id, [e.x, e.a]]]))
      case 7:
        return swapKind(look, target.id, kind.kind)
      case 8:
        return switchNodes(look, ids, e.a % 2 === 0)
      case 9:
        return addStep(look, e.a % (chain.length + 1)).look
      case 10:
        return addRecipeStep(look, e.a % (chain.length + 1), RECIPES[e.b % RECIPES.length]!).look
      case 11:
        return chain.length ? moveStep(look, chain[e.a % chain.length]!.node.id, e.b % chain.length) : look
      case 12:
        return chain.length ? removeStep(look, chain[e.a % chain.length]!.node.id) : look
      case 13:
        return chain.length ? duplicateStep(look, chain[e.a % chain.length]!.node.id).look : look
      case 14:
        return paste(look, parseClip(JSON.stringify(clipOf(look, ids))), [e.x, e.x]).look
      case 15:
        return look.wires.length ? putInto(look, target.id, look.wires[e.a % look.wires.length]!) : look
      case 16:
        return moveNodes(
          look,
          tidied(look, ids, () => ({ width: 160, height: 220 })),
        )
      default:
        return e.a % 2 ? renameNode(look, target.id, `name ${e.a}`) : duplicateNodes(look, [target.id]).look
    }
  }
  it('always leave a look without errors, and undo to the start and redo to the end are identical', () => {
    fc.assert(
      fc.property(fc.array(anyEdit, { maxLength: 40 }), edits => {
        const start = emptyLook()
        const frozen = JSON.stringify(start)
        const history = new History(start)
        let look = start
        for (const e of edits) {
          const next = apply(look, e)
          if (next !== look) history.push((look = next), 'edit')
          expect(parseLook(JSON.parse(JSON.stringify(look)))).toEqual(look)
          expect(check(look).filter(f => f.severity === 'error')).toEqual([])
          expect(inOrder(look)).toHaveLength(look.nodes.length)
        }
        let back: Look | undefined
        let first: Look | undefined
        while ((back = history.undo())) first = back
        expect(JSON.stringify(first ?? start)).toBe(frozen)
        let forth: Look | undefined
        let last: Look | undefined
        while ((forth = history.redo())) last = forth
        expect(last ?? start).toBe(look)
      }),
      { numRuns: 150 },
    )
  })
})

describe('history', () => {
  it('counts one gesture as one step, and begins a new branch after an undo', () => {
    const [a, b, c, d] = ['a', 'b', 'c', 'd'].map(emptyLook) as [Look, Look, Look, Look]
    const history = new History(a)
    history.push(b, 'Drag', 'size')
    history.push(c, 'Drag', 'size')
    expect(history.undo()).toBe(a)
    expect(history.redo()).toBe(c)
    history.settle()
    history.push(d, 'Drag', 'size')
    expect(history.undo()).toBe(c)
    history.push(b, 'Other')
    expect(history.redo()).toBeUndefined()
    expect([history.undoLabel, history.undo(), history.undo(), history.undo()]).toEqual(['Other', c, a, undefined])
  })
})

describe('checks', () => {
  it('find nothing in the demo', () =>
    expect(check(floatRackLook(), { maps: ['sunward', 'glass', 'rope', 'group'] })).toEqual([]))
  it('name the node, and the map that was meant', () => {
    const look = lookOf({ map: ['vertexMap', { map: 'sunwrad' }], finish: ['finish'] }, [
      'map.value > finish.roughness',
      'finish.finish > result.finish',
    ])
    expect(check(look, { maps: ['glass', 'sunward'] })).toEqual([
      {
        severity: 'warning',
        node: 'vertexMap1',
        port: 'map',
        message: 'The mesh has no vertex map "sunwrad", so it is 0 everywhere. Did you mean "sunward"?',
        fixes: [{ label: 'Use "sunward"', set: { map: 'sunward' } }],
      },
    ])
  })
  it('speak of open inputs, nodes that lead nowhere, unknown kinds, loops and values that do not suit', () => {
    const look: Look = {
      ...emptyLook(),
      nodes: [
        ...emptyLook().nodes,
        { id: 'l', kind: 'levels', at: [0, 0], params: { inLow: 'x' } },
        { id: 'u', kind: 'unheard', at: [0, 0], params: {} },
        { id: 'm', kind: 'math', at: [0, 0], params: {} },
      ],
      wires: [{ from: { node: 'm', port: 'value' }, to: { node: 'm', port: 'a' } }],
    }
    const messages = check(look).map(f => `${f.severity} ${f.node}: ${f.message}`)
    expect(messages).toContain(
      'warning l: Nothing is connected to Value of Levels. It uses its own setting everywhere.',
    )
    expect(messages).toContain('warning l: Levels does not lead to the Result, so it changes nothing.')
    expect(messages).toContain('error l: Levels: the value of From, low does not suit it.')
    expect(messages).toContain('error u: "unheard" is not a node kind of this version, so the node does nothing.')
    expect(messages).toContain('error m: Math is part of a loop, so it has no value.')
    expect(messages).toContain('warning result: Nothing is connected to Finish of Result. A plain gray finish.')
  })
  it('find a pattern or a draw that is the same one twice, and the offered seed mends it', () => {
    const twice = (second: Record<string, ParamValue>) =>
      lookOf({ a: ['noise', { seed: 4 }], b: ['noise', { seed: 4, ...second }], f: ['finish'] }, [
        'a.value > f.roughness',
        'b.value > f.metalness',
        'f.finish > result.finish',
      ])
    const [found, ...others] = check(twice({}))
    expect([found, others]).toMatchObject([
      {
        severity: 'warning',
        node: 'noise2',
        port: 'seed',
        message: 'Noise has the seed of Noise, so the two lie exactly over one another.',
      },
      [],
    ])
    expect(check(setParams(twice({}), found!.node!, found!.fixes![0]!.set))).toEqual([])
    expect(check(twice({ size: 3 }))).toEqual([])
    expect(check(twice({ seed: 5 }))).toEqual([])
  })
  it('offer a near name only when it is near', () =>
    expect([nearest('foo', ['sunward']), nearest('SUNWARD', ['sunward'])]).toEqual([undefined, 'sunward']))
  it('know what reaches what', () => {
    const look = lookOf({ a: ['levels'], b: ['levels'] }, ['a.value > b.value'])
    expect([reaches(look, 'levels1', 'levels2'), reaches(look, 'levels2', 'levels1')]).toEqual([true, false])
  })
})

describe('declarations', () => {
  it('show a setting only where it has an effect', () => {
    const zone = KINDS.find(k => k.kind === 'zone')!
    const shown = (shape: string) =>
      Object.entries(zone.params)
        .filter(
          ([, d]) =>
            !d.when ||
            d.when(
              () => shape,
              () => false,
            ),
        )
        .map(([name]) => name)
    expect(shown('ball')).toEqual(['shape', 'x', 'y', 'z', 'radius', 'falloff'])
    expect(shown('below')).toEqual(['shape', 'y', 'falloff'])
    const { stretch, bending } = KINDS.find(k => k.kind === 'noise')!.params
    expect([
      stretch!.when!(
        () => 'none',
        () => true,
      ),
      stretch!.when!(
        () => 'Y',
        () => true,
      ),
      bending!.when!(
        () => 0,
        () => false,
      ),
      bending!.when!(
        () => 0,
        () => true,
      ),
    ]).toEqual([false, true, false, true])
  })
  it.each(KINDS.map(k => [k.kind, k] as const))('%s is complete', (_, k) => {
    expect(k.help.length).toBeGreaterThan(15)
    expect(k.words.length).toBeGreaterThan(1)
    for (const [name, d] of [...Object.entries(k.params), ...Object.entries(k.inputs)])
      expect(d.help, name).toMatch(/\.$/)
    for (const d of Object.values(k.params)) {
      if (d.type === 'number') expect(d.default >= d.min && d.default <= d.max).toBe(true)
      if (d.type === 'choice') expect(d.options.map(o => o.value)).toContain(d.default)
    }
    for (const d of Object.values(k.inputs)) expect(d.default !== undefined || d.missing !== undefined).toBe(true)
  })
  it('have names of their own', () =>
    expect(new Set(KINDS.flatMap(k => [k.kind, k.title])).size).toBeGreaterThanOrEqual(KINDS.length))
})

describe('typed numbers', () => {
  it.each([
    ['1+2*3', 7],
    ['(1+2)*3', 9],
    ['-4/8', -0.5],
    ['1,5', 1.5],
    ['.5', 0.5],
    ['2--1', 3],
    ['1e2', 100],
  ])('%s is %d', (text, want) => expect(evaluateArithmetic(text)).toBe(want))
  it.each(['', 'abc', '1+', '(1', '1 2', '1/0', 'alert(1)'])('"%s" is nothing', text =>
    expect(evaluateArithmetic(text)).toBeNull(),
  )
})
