import { XMLParser } from 'fast-xml-parser'
import { beforeAll, describe, expect, it } from 'vitest'
import { parseLook } from '#core/graph/look'
import { delivered } from '../delivered'
import { lookOf, row } from '../helpers'

/** Parts vary a color, a noise the roughness; both lie on a frame. */
const plain = lookOf(
  {
    which: ['partRandom', { seed: 4 }],
    coat: ['ramp', {}],
    grain: ['noise', { size: 0.2 }],
    finish: ['finish', {}],
  },
  [
    'which.value > coat.value',
    'coat.color > finish.baseColor',
    'grain.value > finish.roughness',
    'finish.finish > result.finish',
  ],
)
const named = {
  ...plain,
  name: 'Hull',
  nodes: plain.nodes.map((n, i) => ({ ...n, at: [i * 10, 10] as [number, number], name: `${n.id} of -- it` })),
}
const sides = { id: 'sides', at: [-50, -50], size: [2000, 1000], frame: true, title: 'Sides', text: '' }
const look = parseLook({ ...named, notes: [sides] })

interface Element {
  category: string
  name: string
  inputs: { name: string; value?: string; nodename?: string }[]
}
let text: string
let elements: Element[]
beforeAll(async () => {
  const { files } = await delivered(row(3), look, { meshes: ['glb'], materials: ['procedural'], size: 256 })
  const path = [...files.keys()].find(p => p.endsWith('.procedural.mtlx'))!
  text = new TextDecoder().decode(files.get(path))
  const parser = new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: '',
    isArray: (_name, _path, _leaf, isAttribute) => !isAttribute,
  })
  const [graph] = parser.parse(text).materialx[0].nodegraph as Record<string, Record<string, never>[]>[]
  elements = Object.entries(graph!)
    .filter(([category, all]) => Array.isArray(all) && category !== 'output')
    .flatMap(([category, all]) =>
      all.map(e => ({ category, name: String(e.name), inputs: (e.input ?? []) as Element['inputs'] })),
    )
})

describe('a procedural document', () => {
  it('calls what a node gives out by its title and the output, and steps on the way by the title', () => {
    const names = elements.map(e => e.name)
    expect(names).toContain('noise1_of_it_Value')
    expect(names.filter(n => n.startsWith('noise1_of_it_')).length).toBeGreaterThan(2)
    // Every node is somebody's.
    expect(names.filter(n => !/^(noise1|partRandom1|ramp1|finish1)_of_it/.test(n))).toEqual(['baseColor_together'])
    expect(new Set(names).size).toBe(names.length)
  })
  it('reads values of parts under the names of what they are', () => {
    const read = elements.flatMap(e => e.inputs.filter(i => i.name === 'geomprop').map(i => i.value))
    expect(read).toEqual(['red', 'green', 'blue'].map(lane => `ub_finish1_of_it_base_color_${lane}`))
  })
  it('names what lies on a frame in a comment that nothing ends too soon', () => {
    expect(text).toContain('<!-- Sides: ')
    expect(text.match(/<!--(.*?)-->/)![1]).toContain('noise1 of - - it')
  })
  it('has no node for what numbers settle', () => {
    const idle = elements.filter(
      e =>
        (e.category === 'add' && e.inputs.some(i => i.value === '0')) ||
        (e.category === 'multiply' && e.inputs.some(i => i.value === '0' || i.value === '1')),
    )
    expect(idle).toEqual([])
  })
})
