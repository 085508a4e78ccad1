import { describe, expect, it } from 'vitest'
import { check } from '#core/graph/check'
import { addNode, setParam, setParams } from '#core/graph/edit'
import { emptyLook, parseLook, type Look } from '#core/graph/look'
import { switchNodes } from '#core/graph/pass'
import {
  addRecipeBase,
  addRecipeStep,
  addStep,
  duplicateStep,
  moveStep,
  removeStep,
  soloed,
  stripOf,
  touched,
} from '#core/graph/strip'
import { samplePoints } from '#core/mesh/sample'
import { lower } from '#core/program/lower'
import { RECIPES } from '#core/recipes'
import { at, lookOf, row, tablesOf } from '../helpers'

const tables = tablesOf(row(3))
const points = samplePoints(tables.mesh, 100)
const order = (look: Look) => stripOf(look)!.steps.map(s => s.node.id)
const shown = (look: Look) => {
  const { base, steps } = stripOf(look)!
  const port = steps.at(-1)?.out ?? base!
  return at(look, tables, `${port.node}/${port.port}`, points).map(c => [...c])
}
const worn = RECIPES.find(r => r.title === 'Damp foot')!
const three = [0, 1, 2].reduce((look, i) => {
  const added = addStep(look, i)
  const finish = added.look.nodes.findLast(n => n.kind === 'finish')!.id
  return setParam(added.look, finish, 'baseColor', [i / 4, 0.5, 1 - i / 4])
}, addStep(emptyLook(), 0).look)

describe('The strip', () => {
  it('reads a chain of layers from the base to the last, and any other look as a base', () => {
    const look = lookOf({ a: ['finish'], b: ['finish'], l: ['layer'], m: ['layer'], n: ['noise'] }, [
      'a.finish > l.below',
      'b.finish > l.above',
      'n.value > l.mask',
      'l.finish > m.below',
      'm.finish > result.finish',
    ])
    expect(order(look)).toEqual(['layer1', 'layer2'])
    expect(stripOf(look)).toMatchObject({
      base: { node: 'finish1' },
      steps: [{ mask: { node: 'noise1', port: 'value' } }, {}],
    })
    expect(stripOf(emptyLook())).toEqual({ steps: [], end: { node: 'result', port: 'finish' } })
    const varied = lookOf({ f: ['finish'] }, ['f.finish > result.finish'])
    expect(stripOf(varied)).toEqual({
      base: { node: 'finish1', port: 'finish' },
      steps: [],
      end: { node: 'result', port: 'finish' },
    })
  })
  it('starts with a base, and lays layers with finish and mask, at any place, that can be seen', () => {
    const first = addStep(emptyLook(), 0)
    expect(stripOf(first.look)).toMatchObject({ base: { node: 'finish1' }, steps: [] })
    expect(order(three)).toEqual(['layer1', 'layer2', 'layer3'])
    const between = addStep(three, 1)
    expect(order(between.look)).toEqual(['layer1', between.id, 'layer2', 'layer3'])
    expect(shown(between.look)).not.toEqual(shown(three))
    expect(check(between.look)).toEqual([])
  })
  it('takes a place that it does not have for the nearest, and breaks no chain', () => {
    expect(addStep(three, 7).look).toEqual(addStep(three, 3).look)
    expect(addStep(three, -2).look).toEqual(addStep(three, 0).look)
    expect(addRecipeStep(three, 7, worn).look).toEqual(addRecipeStep(three, 3, worn).look)
    expect(order(addStep(three, 7).look)).toHaveLength(4)
  })
  it('lays recipes, which are steps with a mask of their own', () => {
    const added = addRecipeStep(three, 1, worn)
    const step = stripOf(added.look)!.steps[1]!
    expect(step.node.recipe!.title).toBe('Damp foot')
    expect(lower(added.look, []).outputs.has(`${step.mask!.node}/${step.mask!.port}`)).toBe(true)
    expect(order(removeStep(added.look, added.id))).toEqual(order(three))
    for (const recipe of RECIPES) {
      const laid = addRecipeStep(three, 3, recipe)
      if (laid.id) expect(order(laid.look).at(-1), recipe.title).toBe(laid.id)
    }
  })
  it('begins with a recipe that makes a finish, and with no other', () => {
    const own = RECIPES.find(r => r.title === 'Each part its own')!
    const begun = addRecipeBase(emptyLook(), own)
    expect(stripOf(begun.look)).toMatchObject({ base: { node: begun.id, port: 'finish' }, steps: [] })
    expect(check(begun.look)).toEqual([])
    // Under steps that were laid over nothing, too; a base that is there stays.
    const over = addRecipeStep(emptyLook(), 0, worn)
    const under = addRecipeBase(over.look, own)
    expect(stripOf(under.look)).toMatchObject({ base: { node: under.id }, steps: [{ node: { id: over.id } }] })
    expect(addRecipeBase(begun.look, own)).toEqual({ look: begun.look, id: '' })
    for (const recipe of RECIPES.filter(r => r !== own)) {
      const look = emptyLook()
      expect(addRecipeBase(look, recipe), recipe.title).toEqual({ look, id: '' })
    }
  })
  it('moves a step there and back, and the order on the strip is the order it is laid in', () => {
    for (const [from, to] of [0, 1, 2].flatMap(a => [0, 1, 2].map(b => [a, b] as const))) {
      const id = order(three)[from]!
      const moved = moveStep(three, id, to)
      const wanted = order(three).filter(x => x !== id)
      wanted.splice(to, 0, id)
      expect(order(moved)).toEqual(wanted)
      expect(shown(moveStep(moved, id, from))).toEqual(shown(three))
      expect(parseLook(JSON.parse(JSON.stringify(moved)))).toEqual(moved)
      // Cards from left to right stay in the order of the chain.
      expect(order(moved).map(x => moved.nodes.find(n => n.id === x)!.at[0])).toEqual(
        order(three).map(x => three.nodes.find(n => n.id === x)!.at[0]),
      )
    }
  })
  it('moves a step without touching cards and wires that stay, also where nothing lies at the bottom', () => {
    const moved = moveStep(three, 'layer1', 1)
    expect(order(moved)).toEqual(['layer2', 'layer1', 'layer3'])
    for (const node of three.nodes) {
      const isMoved = node.id === 'layer1' || node.id === 'layer2'
      expect(moved.nodes.includes(node), node.id).toBe(!isMoved)
    }
    const kept = three.wires.filter(w => moved.wires.includes(w))
    expect(kept).toHaveLength(three.wires.length - 3)
    const bare: Look = { ...three, wires: three.wires.filter(w => w.to.node !== 'layer1' || w.to.port !== 'below') }
    const turned = moveStep(bare, 'layer1', 2)
    expect(order(turned)).toEqual(['layer2', 'layer3', 'layer1'])
    expect(turned.wires.some(w => w.to.node === 'layer2' && w.to.port === 'below')).toBe(false)
    expect(new Set(turned.wires.map(w => `${w.to.node}/${w.to.port}`)).size).toBe(turned.wires.length)
    expect(turned.wires).toHaveLength(bare.wires.length)
  })
  it('removes a step with what serves it alone, and nothing that another uses', () => {
    expect(
      removeStep(three, 'layer2')
        .nodes.map(n => n.kind)
        .sort(),
    ).toEqual(
      three.nodes
        .map(n => n.kind)
        .filter((k, i, all) => !['layer', 'finish', 'noise', 'coverage'].includes(k) || all.indexOf(k) !== i)
        .sort(),
    )
    const shared: Look = {
      ...three,
      wires: [
        ...three.wires.filter(w => !(w.to.node === 'layer3' && w.to.port === 'mask')),
        { from: { node: 'coverage2', port: 'value' }, to: { node: 'layer3', port: 'mask' } },
      ],
    }
    const left = removeStep(shared, 'layer2')
    expect(left.nodes.some(n => n.id === 'coverage2')).toBe(true)
    expect(order(left)).toEqual(['layer1', 'layer3'])
  })
  it('copies a step over itself, with a mask of its own', () => {
    const copied = duplicateStep(three, 'layer2')
    expect(order(copied.look)).toEqual(['layer1', 'layer2', copied.id, 'layer3'])
    const [, own, copy] = stripOf(copied.look)!.steps
    expect(copy!.mask!.node).not.toBe(own!.mask!.node)
    expect(shown(removeStep(copied.look, copied.id))).toEqual(shown(three))
  })
  it('solo shows one step over the base; off shows what is below', () => {
    const off = switchNodes(three, ['layer2'], true)
    expect(order(off)).toEqual(order(three))
    expect(shown(off)).toEqual(shown(removeStep(three, 'layer2')))
    expect(shown(soloed(three, 'layer2'))).toEqual(shown(removeStep(removeStep(three, 'layer1'), 'layer3')))
  })
  it('says which channels a step changes, and how much of each', () => {
    const finish = three.wires.find(w => w.to.node === 'layer2' && w.to.port === 'above')!.from.node
    const set = (look: Look, id: string, values: Parameters<typeof setParams>[2]) => setParams(look, id, values)
    expect(touched(three, 'layer2')).toEqual([
      { channel: 'baseColor', amount: 1 },
      { channel: 'metalness', amount: 1 },
      { channel: 'roughness', amount: 1 },
    ])
    const rough = set(three, finish, { sets: ['roughness', 'height'] })
    const each = set(rough, 'layer2', { channels: 'each', amount: 0.5, roughnessAmount: 0.4, heightWay: 'leave' })
    expect(touched(rough, 'layer2').map(t => t.channel)).toEqual(['roughness', 'height'])
    expect(touched(each, 'layer2')).toEqual([{ channel: 'roughness', amount: 0.2 }])
    expect(touched(set(rough, 'layer2', { opens: 'coat' }), 'layer2')).toHaveLength(7)
    // A recipe by what is laid inside it; what another node gives out by what that sets.
    const damp = addRecipeStep(three, 3, worn)
    expect(touched(damp.look, damp.id).map(t => t.channel)).toEqual(['baseColor', 'roughness'])
    const wired: Look = {
      ...three,
      wires: [...three.wires, { from: { node: 'noise1', port: 'value' }, to: { node: 'layer2', port: 'amount' } }],
    }
    expect(touched(wired, 'layer2')[0]).toEqual({ channel: 'baseColor' })
  })
  it('a move that would feed a mask from itself is not made', () => {
    // The mask of layer 3 is the color of what layer 1 gives out: layer 1 cannot lie above it.
    const added = addNode(three, 'bySet', [0, 0])
    const fed: Look = {
      ...added.look,
      wires: [
        ...added.look.wires.filter(w => !(w.to.node === 'layer3' && w.to.port === 'above')),
        { from: { node: 'layer1', port: 'finish' }, to: { node: added.id, port: 'a' } },
        { from: { node: added.id, port: 'finish' }, to: { node: 'layer3', port: 'above' } },
      ],
    }
    expect(check(fed).filter(f => f.severity === 'error')).toEqual([])
    expect(moveStep(fed, 'layer1', 2)).toBe(fed)
    expect(order(moveStep(fed, 'layer1', 1))).toEqual(['layer2', 'layer1', 'layer3'])
    expect(moveStep(three, 'layer1', 0)).toBe(three)
    expect(moveStep(three, 'nothing', 1)).toBe(three)
  })
})
