import type { ParamDeclaration, ParamValue } from '#core/nodes/declare'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { check } from '#core/graph/check'
import { addNode, connect, duplicateNodes, removeNodes, setParam } from '#core/graph/edit'
import { emptyLook, LookError, parseLook, parseRecipe, type Look } from '#core/graph/look'
import { kindFor } from '#core/graph/kinds'
import { nodeOf } from '#core/graph/find'
import { refusal } from '#core/graph/ports'
import {
  addEcho,
  addRecipe,
  echoWire,
  exposeSetting,
  foldNodes,
  recipeOf,
  settable,
  unfoldNode,
} from '#core/graph/recipe'
import { changePage, leads, pageOf } from '#core/graph/scope'
import { RECIPES } from '#core/recipes'
import { fillMaps } from '#core/recipes/fillMaps'
import { renameMap } from '#core/mesh/setEdits'
import { emptyPreparation } from '#core/mesh/preparation'
import { samplePoints } from '#core/mesh/sample'
import { at, ball, lookOf, meshOf, row, tablesOf } from '../helpers'

/** Some value of a parameter that is not its default. */
function otherThanDefault(d: ParamDeclaration): ParamValue {
  if (d.type === 'color') return [0.9, 0.05, 0.6]
  if (d.type === 'seed') return 991
  if (d.type === 'choice') return d.options[0]!.value
  const { default: usual, min, max } = d as { default: number; min: number; max: number }
  return usual === max ? min : usual + (max - usual) * 0.5
}

const tables = tablesOf(row(4))
const points = samplePoints(tables.mesh, 300)
const result = (look: Look): number[][] => {
  const into = look.wires.find(w => w.to.node === 'result')!.from
  return at(look, tables, `${into.node}/${into.port}`, points).map(c => [...c])
}
/** A look whose nodes can be folded in many ways. */
const looked = () =>
  lookOf(
    {
      r: ['partRandom', { seed: 3 }],
      n: ['noise', { seed: 5, size: 40 }],
      m: ['math', { operation: 'add' }],
      ramp: ['ramp'],
      vary: ['varyColor'],
      f: ['finish'],
      g: ['finish', { roughness: 0.9 }],
      l: ['layer'],
    },
    [
      'r.value > m.a',
      'n.value > m.b',
      'm.value > ramp.value',
      'ramp.color > vary.color',
      'r.second > vary.hueBy',
      'n.value > l.mask',
      'vary.color > f.baseColor',
      'n.value > f.roughness',
      'f.finish > l.below',
      'g.finish > l.above',
      'l.finish > result.finish',
    ],
  )

describe('Folding', () => {
  const ids = looked().nodes.map(n => n.id)
  it('changes nothing of what the look shows, whatever is folded, even twice; unfolding brings it all back', () =>
    fc.assert(
      fc.property(fc.subarray(ids, { minLength: 1 }), fc.subarray(ids), (first, second) => {
        const look = looked()
        const folded = foldNodes(look, first, 'Folded')
        if (!folded.id) return
        const again = foldNodes(folded.look, [folded.id, ...second], 'Outer')
        for (const l of [folded.look, again.look, unfoldNode(folded.look, folded.id).look])
          expect(result(parseLook(JSON.parse(JSON.stringify(l))))).toEqual(result(look))
        const back = unfoldNode(folded.look, folded.id).look
        expect(back.nodes.map(n => n.kind).sort()).toEqual(look.nodes.map(n => n.kind).sort())
        expect(back.wires).toHaveLength(look.wires.length)
        expect(check(back).filter(f => f.severity === 'error')).toEqual([])
      }),
      { numRuns: 60 },
    ))
  it('has one input for each source from outside, and outputs for what is used outside', () => {
    const { look, id } = foldNodes(looked(), ['math1', 'ramp1', 'varyColor1'], 'Color')
    const kind = kindFor(nodeOf(look, id!)!)!
    expect(Object.values(kind.inputs).map(i => i.title)).toEqual(['A', 'B', 'Hue by'])
    expect(Object.entries(kind.outputs).map(([name, o]) => [name, o.title, o.type])).toEqual([
      ['color', 'Color', 'color'],
    ])
    expect(kind.title).toBe('Color')
  })
  it('never takes the result in, and does nothing with nothing', () => {
    expect(foldNodes(looked(), ['result'], 'x').id).toBeUndefined()
    expect(nodeOf(foldNodes(looked(), ids, 'All').look, 'result')).toBeDefined()
  })
  it('refuses wires that would lead a recipe into itself', () => {
    const { look, id } = foldNodes(looked(), ['math1', 'ramp1'], 'Fold')
    const out = Object.keys(kindFor(nodeOf(look, id!)!)!.outputs)[0]!
    expect(refusal(look, { node: id!, port: out }, { node: id!, port: 'a' })?.reason).toContain('loop')
  })
})

describe('Settings of a recipe', () => {
  const base = foldNodes(looked(), ['noise1', 'math1'], 'Mixed')
  const shown = exposeSetting(base.look, base.id!, 'noise1', 'size', true)
  it('are what they are inside until they are set, and then count', () => {
    expect(kindFor(nodeOf(shown, base.id!)!)!.params.size).toMatchObject({
      type: 'number',
      default: 40,
      title: 'Size',
      unit: 'cm',
    })
    expect(result(shown)).toEqual(result(looked()))
    const set = setParam(shown, base.id!, 'size', 7)
    expect(result(set)).toEqual(result(setParam(looked(), 'noise1', 'size', 7)))
    expect(result(unfoldNode(set, base.id!).look)).toEqual(result(set))
    expect(setParam(shown, base.id!, 'size', 1e9)).toEqual(setParam(shown, base.id!, 'size', 10000))
  })
  it('keep their value when they are taken away', () => {
    const set = setParam(shown, base.id!, 'size', 7)
    const hidden = exposeSetting(set, base.id!, 'noise1', 'size', false)
    expect(kindFor(nodeOf(hidden, base.id!)!)!.params.size).toBeUndefined()
    expect(result(hidden)).toEqual(result(set))
  })
  it('lists what can be set: no wired input', () => {
    const list = settable(nodeOf(base.look, base.id!)!.recipe!).map(s => `${s.node.id}.${s.param}`)
    expect(list).toContain('noise1.seed')
    expect(list).not.toContain('math1.b')
  })
  it('name what they set where two would be called alike', () => {
    const two = foldNodes(
      lookOf({ a: ['noise', { seed: 1 }], b: ['noise', { seed: 2 }], m: ['math'] }, ['a.value > m.a', 'b.value > m.b']),
      ['noise1', 'noise2', 'math1'],
      'Two',
    )
    const both = ['noise1', 'noise2'].reduce((l, n) => exposeSetting(l, two.id!, n, 'size', true), two.look)
    expect(Object.values(kindFor(nodeOf(both, two.id!)!)!.params).map(p => p.title)).toEqual(['Size', 'Noise: Size'])
  })
})

describe('Inside a recipe', () => {
  const base = foldNodes(looked(), ['noise1', 'math1'], 'Mixed')
  const id = base.id!
  const shown = setParam(exposeSetting(base.look, id, 'noise1', 'size', true), id, 'size', 7)
  it('the page has the settings of outside, and a change there is as one made where it was', () => {
    expect(nodeOf(pageOf(shown, [id]), 'noise1')!.params.size).toBe(7)
    const changed = changePage(shown, [id], page => setParam(page, 'noise1', 'size', 12))
    expect(result(changed)).toEqual(result(setParam(looked(), 'noise1', 'size', 12)))
    expect(kindFor(nodeOf(changed, id)!)!.params.size).toMatchObject({ default: 12 })
    expect(result(changePage(shown, [id], page => setParam(page, 'noise1', 'detail', 2)))).toEqual(
      result(setParam(setParam(looked(), 'noise1', 'size', 7), 'noise1', 'detail', 2)),
    )
  })
  it('nothing changes where nothing is changed, and what outside needs cannot be taken away', () => {
    expect(changePage(shown, [id], page => page)).toBe(shown)
    expect(changePage(shown, [id], page => removeNodes(page, ['math1']))).toBe(shown)
    expect(leads(shown, [id])).toBe(true)
    expect(leads(shown, ['gone'])).toBe(false)
  })
  it('a wire drawn inside takes the place of one from outside, which goes', () => {
    const folded = foldNodes(looked(), ['math1', 'ramp1'], 'Fold')
    const inputs = nodeOf(folded.look, folded.id!)!.recipe!.inputs
    const next = changePage(folded.look, [folded.id!], page => {
      const added = addNode(page, 'value', [0, 0], { value: 0.5 })
      return connect(added.look, { node: added.id, port: 'value' }, inputs[0]!.to[0]!)
    })
    expect(nodeOf(next, folded.id!)!.recipe!.inputs).toEqual(inputs.slice(1))
    expect(parseLook(JSON.parse(JSON.stringify(next)))).toEqual(next)
    expect(check(next).filter(f => f.severity === 'error')).toEqual([])
  })
  it('works two deep', () => {
    const outer = foldNodes(shown, [id, 'ramp1'], 'Outer')
    const path = [outer.id!, id]
    const next = changePage(outer.look, path, page => setParam(page, 'noise1', 'size', 12))
    expect(result(next)).toEqual(result(setParam(looked(), 'noise1', 'size', 12)))
  })
})

describe('A recipe taken in', () => {
  const recipe = recipeOf(nodeOf(foldNodes(looked(), ['noise1', 'math1'], 'Mixed').look, 'recipe1')!)
  it('has seeds of its own, so that two of them never lie over one another', () => {
    const one = addRecipe(looked(), recipe, [0, 0])
    const two = addRecipe(one.look, recipe, [0, 0])
    const seeds = two.look.nodes
      .flatMap(n => n.recipe?.nodes ?? [n])
      .flatMap(n => ('seed' in n.params ? [n.params.seed] : []))
    expect(new Set(seeds).size).toBe(seeds.length)
  })
  it('is copied whole', () => {
    const one = addRecipe(looked(), recipe, [0, 0])
    const copy = duplicateNodes(one.look, [one.id])
    expect(nodeOf(copy.look, copy.ids[0]!)!.recipe).toEqual(nodeOf(one.look, one.id)!.recipe)
  })
  it('is refused where it is not whole, with a sentence', () => {
    expect(() =>
      parseRecipe({ ...recipe, outputs: [{ name: 'x', title: 'X', from: { node: 'gone', port: 'value' } }] }),
    ).toThrow(/names "gone", which is not in it/)
    expect(() => parseRecipe({ title: 'x' })).toThrow(LookError)
    let deep = recipe
    for (let i = 0; i < 12; i++)
      deep = {
        ...recipe,
        nodes: [{ id: 'noise1', kind: 'recipe', at: [0, 0], params: {}, recipe: deep }, ...recipe.nodes.slice(1)],
        inputs: [],
        wires: [],
        settings: [],
        outputs: [],
      }
    expect(() => parseRecipe(deep)).toThrow(/eight deep/)
  })
})

describe('Echoes', () => {
  it('take the place of a wire and change nothing', () => {
    const look = looked()
    const wire = look.wires.find(w => w.to.port === 'mask')!
    const echoed = echoWire(look, wire)
    expect(result(echoed)).toEqual(result(look))
    expect(echoed.wires).not.toContainEqual(wire)
    expect(check(echoed)).toEqual(check(look))
  })
  it('stay with what they stand for when it is folded, and when it is unfolded', () => {
    const look = looked()
    const echoed = echoWire(
      look,
      look.wires.find(w => w.to.port === 'mask')!,
    )
    const folded = foldNodes(echoed, ['noise1', 'math1'], 'Fold')
    expect(result(folded.look)).toEqual(result(look))
    expect(result(unfoldNode(folded.look, folded.id!).look)).toEqual(result(look))
    const inside = foldNodes(echoed, ['echo1', 'layer1'], 'Fold')
    expect(result(inside.look)).toEqual(result(look))
  })
  it('may not feed what they stand for', () => {
    const { look, id } = addEcho(looked(), { node: 'ramp1', port: 'color' }, [0, 0])
    expect(refusal(look, { node: id, port: 'out' }, { node: 'math1', port: 'a' })?.reason).toContain('loop')
    expect(connect(look, { node: id, port: 'out' }, { node: 'math1', port: 'a' })).toBe(look)
  })
  it('carry what runs through their port', () => {
    const { look, id } = addEcho(looked(), { node: 'finish1', port: 'finish' }, [0, 0])
    expect(refusal(look, { node: id, port: 'out' }, { node: 'ramp1', port: 'value' })?.reason).toContain('finish')
    expect(nodeOf(setParam(look, id, 'of', 'noise1/value'), id)!.params.carries).toBe('value')
  })
})

describe('The recipes that ship', () => {
  it.each(RECIPES.map(r => [r.title, r] as const))(
    '%s: whole, its titles unlike, and without a finding of its own',
    (_, recipe) => {
      const filled = fillMaps(recipe, [], [], 2)
      const names = filled.missing.map(m => m.name)
      parseRecipe(JSON.parse(JSON.stringify(recipe)))
      const added = addRecipe(emptyLook(), filled.recipe, [0, 0])
      const kind = kindFor(nodeOf(added.look, added.id)!)!
      expect(Object.keys(kind.inputs)).toHaveLength(recipe.inputs.length)
      expect(Object.keys(kind.params)).toHaveLength(recipe.settings.length)
      expect(Object.keys(kind.outputs)).toHaveLength(recipe.outputs.length)
      const open = unfoldNode(added.look, added.id).look
      const inputs = new Set(recipe.inputs.map(i => i.title))
      expect(
        check(open, { maps: names }).filter(
          f =>
            !f.message.includes('Result') &&
            ![...inputs, 'Below', 'Color', 'Above', 'A'].some(title => f.message.includes(`connected to ${title} of`)),
        ),
      ).toEqual([])
    },
  )
  it.each(RECIPES.map(r => [r.title, r] as const))(
    '%s: does something, and every setting of it counts',
    (_, recipe) => {
      const round = meshOf(ball(1, 24, 16), ball(0.5, 12, 8))
      const points = samplePoints(round, 400)
      const mesh = {
        ...round,
        maps: ['convexity', 'concavity', 'occlusion'].map((name, k) => ({
          name,
          components: 1,
          values: Float32Array.from({ length: round.positions.length / 3 }, (_, v) => (v * 0.618 + k * 0.37) % 1),
        })),
      }
      const world = tablesOf(mesh)
      const { recipe: filled } = fillMaps(
        recipe,
        [
          { kind: 'convexity', name: 'convexity', radius: 1 },
          { kind: 'concavity', name: 'concavity', radius: 1 },
          { kind: 'occlusion', name: 'occlusion', distance: 1, among: 'all', rays: 8 },
        ],
        [],
        2,
      )
      const { look: bare, id } = addRecipe(emptyLook(), filled, [0, 0])
      const kind = kindFor(nodeOf(bare, id)!)!
      // Every input has something that is not a default.
      const look = Object.entries(kind.inputs).reduce((l, [port, d], i) => {
        const added = addNode(
          l,
          d.type === 'finish' ? 'finish' : 'color',
          [0, 0],
          d.type === 'finish'
            ? {
                baseColor: [0.2 + i * 0.6, 0.1, 0.3],
                roughness: 0.6,
                metalness: i * 0.5,
                sets: ['baseColor', 'metalness', 'roughness', 'height'],
              }
            : { color: [0.4, 0.1, 0.2] },
        )
        return connect(
          added.look,
          { node: added.id, port: Object.keys(kindFor(nodeOf(added.look, added.id)!)!.outputs)[0]! },
          { node: id, port },
        )
      }, bare)
      const all = (l: Look) =>
        Object.keys(kind.outputs).map(port => at(l, world, `${id}/${port}`, points).map(c => [...c]))
      const before = all(look)
      // Of two parts, what differs from part to part has two values.
      const ofParts = ['Per-part drift', 'Each part its own'].includes(recipe.title)
      expect(new Set(before[0]![0]!).size).toBeGreaterThan(ofParts ? 1 : 3)
      for (const [name, d] of Object.entries(kind.params)) {
        if (d.type === 'map') continue
        expect(all(setParam(look, id, name, otherThanDefault(d))), d.title).not.toEqual(before)
      }
    },
  )
  it('ask for a map once, and take one of its kind that is there', () => {
    const dirt = RECIPES.find(r => r.title === 'Recess dirt')!
    expect(fillMaps(dirt, [], ['occlusion'], 2).missing.map(m => m.name)).toEqual(['concavity', 'occlusion 2'])
    const known = fillMaps(dirt, [{ kind: 'concavity', name: 'grooves', radius: 0.01 }], ['grooves'], 2)
    expect(known.recipe.nodes.find(n => n.id === 'hollow')!.params.map).toBe('grooves')
    expect(known.missing.map(m => m.kind)).toEqual(['occlusion'])
  })
  it('follow a map that is renamed', () => {
    const wear = fillMaps(
      RECIPES.find(r => r.title === 'Edge wear')!,
      [{ kind: 'convexity', name: 'edges', radius: 0.01 }],
      [],
      2,
    ).recipe
    const { look, id } = addRecipe(emptyLook(), wear, [0, 0])
    const next = renameMap(
      { look, preparation: { ...emptyPreparation(), maps: [{ kind: 'convexity', name: 'edges', radius: 0.01 }] } },
      'edges',
      'rims',
      ['edges'],
    )
    expect(nodeOf(next.look, id)!.recipe!.nodes.find(n => n.id === 'edges')!.params.map).toBe('rims')
  })
})
