import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { removeNodes, setParam } from '#core/graph/edit'
import { parseLook } from '#core/graph/look'
import { nodeOf } from '#core/graph/find'
import { hasSeed, reseed } from '#core/graph/recipe'
import {
  expose,
  exposable,
  exposedIn,
  isSetAs,
  keepVariant,
  removeVariant,
  renameVariant,
  withVariant,
} from '#core/graph/variants'
import { delivered } from '../delivered'
import { lookOf, row } from '../helpers'

const look = lookOf(
  {
    random: ['partRandom', { seed: 3 }],
    palette: ['palette'],
    noise: ['noise', { size: 40, seed: 5 }],
    finish: ['finish', { metalness: 0.2 }],
  },
  ['palette.color > finish.baseColor', 'noise.value > finish.roughness', 'finish.finish > result.finish'],
)
const id = (kind: string) => look.nodes.find(n => n.kind === kind)!.id

describe('variants of a look', () => {
  it('keep seeds, palettes and what is exposed, and nothing else', () => {
    const exposed = expose(look, id('finish'), 'metalness', true)
    const summer = keepVariant(exposed, 'Summer')
    expect(summer.variants![0]!.values.map(v => `${v.node}/${v.param}`).sort()).toEqual(
      [
        `${id('partRandom')}/seed`,
        `${id('palette')}/colors`,
        `${id('palette')}/seed`,
        `${id('noise')}/seed`,
        `${id('finish')}/metalness`,
      ].sort(),
    )
    const changed = setParam(
      setParam(setParam(summer, id('noise'), 'seed', 9), id('noise'), 'size', 80),
      id('finish'),
      'metalness',
      1,
    )
    expect(isSetAs(summer, summer.variants![0]!)).toBe(true)
    expect(isSetAs(changed, summer.variants![0]!)).toBe(false)
    const back = withVariant(changed, summer.variants![0]!)
    expect(isSetAs(back, summer.variants![0]!)).toBe(true)
    expect([
      back.nodes.find(n => n.kind === 'noise')!.params,
      back.nodes.find(n => n.kind === 'finish')!.params.metalness,
    ]).toEqual([{ size: 80, seed: 5 }, 0.2])
    expect(parseLook(JSON.parse(JSON.stringify(back)))).toEqual(back)
  })
  it('are replaced, renamed and removed by name; a name is never there twice', () => {
    const two = keepVariant(keepVariant(look, 'A'), 'B')
    expect(renameVariant(two, 'A', 'B')).toBe(two)
    expect(removeVariant(renameVariant(two, 'A', 'C'), 'B').variants!.map(v => v.name)).toEqual(['C'])
    expect(keepVariant(two, 'A').variants!.map(v => v.name)).toEqual(['A', 'B'])
  })
  it('outlive the removal of a node: what is not there any more is passed over', () => {
    const kept = keepVariant(expose(look, id('noise'), 'size', true), 'A')
    const without = removeNodes(kept, [id('noise')])
    expect(exposedIn(without)).toEqual([])
    expect(() => withVariant(without, kept.variants![0]!)).not.toThrow()
    expect(isSetAs(without, kept.variants![0]!)).toBe(true)
  })
  it('come back exactly, whatever was changed in between', () => {
    const exposed = exposable(
      look,
      look.nodes.find(n => n.kind === 'noise')!,
    ).reduce((l, e) => expose(l, id('noise'), e.param, true), look)
    const kept = keepVariant(exposed, 'Now')
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.constantFrom('size', 'detail', 'seed', 'contrast', 'strength'),
            fc.double({ min: 0.1, max: 9, noNaN: true }),
          ),
          { maxLength: 8 },
        ),
        edits => {
          const changed = edits.reduce((l, [param, value]) => setParam(l, id('noise'), param, value), kept)
          expect(withVariant(changed, kept.variants![0]!).nodes).toEqual(kept.nodes)
        },
      ),
    )
  })
  it('leave together in one delivery, each under its name', async () => {
    const autumn = setParam(keepVariant(look, 'Summer'), id('palette'), 'seed', 77)
    const both = keepVariant(autumn, 'Autumn')
    const { manifest, files } = await delivered(row(3), both, {
      meshes: [],
      maps: ['baseColor'],
      variants: ['Summer', 'Autumn'],
      size: 256,
    })
    expect(manifest.variants.map(v => v.name)).toEqual(['as it is', 'Summer', 'Autumn'])
    const picture = (name: string) => Buffer.from(files.get(`textures/it_${name}_baseColor.png`)!)
    expect(picture('as_it_is').equals(picture('Autumn'))).toBe(true)
    expect(picture('Summer').equals(picture('Autumn'))).toBe(false)
    await expect(delivered(row(3), both, { variants: ['Winter'] })).rejects.toThrow('The look has no variant "Winter".')
  })
})

describe('Rolls', () => {
  it('move the seeds of all nodes, or of those that are named, and nothing else', () => {
    const rolled = lookOf({ a: ['partRandom', { seed: 5 }], b: ['noise', { seed: 9, size: 2 }], c: ['value'] }, [])
    const seeds = (l: typeof rolled) => ['partRandom1', 'noise1'].map(id => nodeOf(l, id)!.params.seed)
    expect(seeds(reseed(rolled, 3))).toEqual([5 + 3 * 7919, 9 + 3 * 7919])
    const one = reseed(rolled, 3, new Set(['noise1']))
    expect(seeds(one)).toEqual([5, 9 + 3 * 7919])
    expect(one.nodes.map(n => n.params.size)).toEqual(rolled.nodes.map(n => n.params.size))
    expect(reseed(rolled, 0, new Set(['noise1']))).toBe(rolled)
    expect(['partRandom1', 'noise1', 'value1'].map(id => hasSeed(nodeOf(rolled, id)!))).toEqual([true, true, false])
  })
  it('one after the other are one roll by their sum: a sheet counts on from what was kept', () =>
    fc.assert(
      fc.property(fc.nat({ max: 1000 }), fc.nat({ max: 1000 }), fc.nat({ max: 2 ** 24 - 1 }), (first, second, seed) => {
        const rolled = lookOf({ a: ['partRandom', { seed }] }, [])
        expect(reseed(reseed(rolled, first), second)).toEqual(reseed(rolled, first + second))
      }),
    ))
})
