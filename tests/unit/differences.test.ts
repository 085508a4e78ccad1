import { describe, expect, it } from 'vitest'
import { differences, differencesOf } from '#core/graph/differences'
import { addNode, connect, disconnect, renameNode, setParam } from '#core/graph/edit'
import { emptyLook } from '#core/graph/look'
import { emptyPreparation } from '#core/mesh/preparation'
import { preparationDifferences } from '#core/mesh/preparationDifferences'

describe('differences in words', () => {
  const start = addNode(addNode({ ...emptyLook(), name: 'Glass' }, 'color', [0, 0]).look, 'noise', [0, 0]).look

  it('names nodes, settings, wires and switches; where cards lie does not count', () => {
    expect(differences(start, start)).toEqual([])
    expect(
      differences(start, { ...start, nodes: start.nodes.map(n => ({ ...n, at: [9, 9] as [number, number] })) }),
    ).toEqual([])
    expect(differences(start, addNode(start, 'value', [0, 0]).look)).toEqual(['Value was added.'])
    expect(differences(addNode(start, 'value', [0, 0]).look, start)).toEqual(['Value was removed.'])
    const set = setParam(start, 'noise1', 'size', 0.25)
    expect(differences(start, set)).toEqual([expect.stringMatching(/^Noise: Size from .+ to 0\.25\.$/)])
    expect(differences(set, start)).toEqual([expect.stringMatching(/^Noise: Size from 0\.25 to .+\.$/)])
    // Whole numbers are told whole, however large: seeds differ in their last digits.
    const seeded = setParam(setParam(start, 'noise1', 'seed', 15_842), 'noise1', 'size', 0.123456)
    expect(differences(setParam(start, 'noise1', 'seed', 15_843), seeded)).toEqual([
      'Noise: Seed from 15843 to 15842.',
      expect.stringMatching(/ to 0\.1235\.$/),
    ])
    expect(
      differences(start, {
        ...start,
        nodes: start.nodes.map(n => (n.id === 'color1' ? { ...n, off: true as const, name: 'Teal' } : n)),
      }),
    ).toEqual(['Color is called Teal.', 'Teal was switched off.'])
    expect(differences(start, { ...start, name: 'Resin' })).toEqual([
      'The look was called "Glass" and is called "Resin".',
    ])
  })

  it('tells which way a wire went, and not twice that it went with its node', () => {
    const mixed = addNode(start, 'invert', [0, 0]).look
    const wired = connect(mixed, { node: 'noise1', port: 'value' }, { node: 'invert1', port: 'value' })
    expect(differences(mixed, wired)).toEqual(['A wire was drawn from Noise (Value) to Invert (Value).'])
    expect(differences(wired, mixed)).toEqual(['The wire from Noise (Value) to Invert (Value) was taken out.'])
    expect(differences(start, wired)).toEqual(['Invert was added.'])
  })

  it('can be taken back one by one, which leaves the rest', () => {
    const mixed = addNode(start, 'invert', [0, 0]).look
    const before = connect(mixed, { node: 'noise1', port: 'value' }, { node: 'invert1', port: 'value' })
    const [wire] = before.wires
    const renamed = renameNode(setParam(before, 'noise1', 'size', 0.25), 'color1', 'Teal')
    const switched = {
      ...renamed,
      name: 'Resin',
      nodes: renamed.nodes.map(n => (n.id === 'invert1' ? { ...n, off: true as const } : n)),
    }
    const now = addNode(disconnect(switched, [wire!]), 'value', [0, 0]).look
    const all = differencesOf(before, now)
    expect(all).toHaveLength(6)
    for (const one of all) {
      const left = differences(before, one.back!(now))
      expect(left).toEqual(
        all
          .filter(d => d !== one)
          .map(d => d.words.replaceAll('Teal', left.some(l => l.includes('Teal')) ? 'Teal' : 'Color')),
      )
    }
    const back = all.reduce((look, d) => d.back!(look), now)
    expect(differences(before, back)).toEqual([])
    expect(back.wires).toEqual(before.wires)
  })

  it('of preparations', () => {
    const now = emptyPreparation()
    expect(preparationDifferences(now, now)).toEqual([])
    expect(preparationDifferences(now, { ...now, scale: 0.01, contact: 0.5 })).toEqual([
      'The units of the mesh changed.',
      'How near parts touch changed.',
    ])
  })
})
