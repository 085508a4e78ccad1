import { XMLParser } from 'fast-xml-parser'
import { beforeAll, describe, expect, it } from 'vitest'
import { MxGraph, type MxValue } from '#core/exchange/mxGraph'
import { parseLook, type Look } from '#core/graph/look'
import { exposeSetting, foldNodes } from '#core/graph/recipe'
import { delivered } from '../delivered'
import { lookOf, row } from '../helpers'
import { standard } from '../standard'

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

/** The document of a look in which some nodes are folded into a recipe that shows some of their settings. */
async function folded(
  from: Look,
  ids: readonly string[],
  shown: readonly (readonly [node: string, param: string])[],
): Promise<string> {
  const { look, id } = foldNodes(from, ids, 'Blotches')
  const open = shown.reduce((l, [node, param]) => exposeSetting(l, id!, node, param, true), look)
  const { files } = await delivered(row(3), open, { meshes: ['glb'], materials: ['procedural'], size: 256 })
  return new TextDecoder().decode(files.get('it.procedural.mtlx'))
}
const blotched = lookOf(
  {
    grain: ['noise', { size: 60 }],
    levels: ['levels', { inLow: 0.2, inHigh: 0.7 }],
    draw: ['partRandom', { seed: 3 }],
    spread: ['levels', { inLow: 0.1 }],
    shift: ['math', { operation: 'add' }],
    paint: ['mix', { of: 'color', a: [0.8, 0.3, 0.1], b: [0.1, 0.2, 0.6] }],
    finish: ['finish', {}],
  },
  [
    'grain.value > levels.value',
    'levels.value > shift.a',
    'draw.value > spread.value',
    'spread.value > shift.b',
    'shift.value > finish.roughness',
    'levels.value > paint.amount',
    'paint.out > finish.baseColor',
    'finish.finish > result.finish',
  ],
)
const library = await standard()

describe('a recipe in a procedural document', () => {
  it('is a definition of its own, used once, with its numbers and colors to be set', async () => {
    const xml = await folded(
      { ...blotched, name: 'Hull' },
      ['noise1', 'levels1', 'mix1'],
      [
        ['noise1', 'size'],
        ['levels1', 'inLow'],
        ['mix1', 'a'],
      ],
    )
    const [definition] = /<nodedef[\s\S]*?<\/nodedef>/.exec(xml)!
    expect(definition).toContain('node="Hull_Blotches" uiname="Blotches"')
    expect(definition).toContain('<input name="size" type="float" value="60" uiname="Size" />')
    expect(definition).toContain('<input name="a" type="color3" value="0.8, 0.3, 0.1"')
    const [use] = /<Hull_Blotches [\s\S]*?<\/Hull_Blotches>/.exec(xml)!
    expect(use).toMatch(/<input name="inLow" type="float" value="0\.2" \/>/)
    expect(xml.match(/<Hull_Blotches /g)).toHaveLength(1)
    const [inside] = /<nodegraph name="NG_Hull_Blotches" [\s\S]*?<\/nodegraph>/.exec(xml)!
    for (const name of ['size', 'inLow', 'a']) expect(inside).toContain(`interfacename="${name}"`)
    expect(xml.split('<nodegraph name="NG_Hull">')[1]).not.toContain('interfacename')
    expect(await library.faults(xml)).toEqual([])
    expect(await library.shader(xml)).toContain('Hull_Blotches')
  })

  it('keeps to itself what values of parts depend on, and says so', async () => {
    const xml = await folded(
      blotched,
      ['partRandom1', 'math1', 'levels1', 'levels2'],
      [
        ['partRandom1', 'seed'],
        ['levels2', 'inLow'],
        ['levels1', 'inHigh'],
      ],
    )
    expect(xml).not.toContain('name="seed"')
    expect(xml).not.toContain('name="inLow"')
    expect(xml).toContain('<input name="inHigh" type="float"')
    expect(xml).toMatch(/<!-- Values of the mesh, or pictures, depend on Seed of Blotches, From, low of Blotches/)
    // What comes from outside of it is wired where it stands.
    const [use] = /<\w+_Blotches name[\s\S]*?<\/\w+_Blotches>/.exec(xml)!
    expect(use).toMatch(/<input name="from_Noise_Value" type="float" nodename="Noise_Value" \/>/)
    expect(await library.faults(xml)).toEqual([])
    expect((await library.shader(xml)).length).toBeGreaterThan(20_000)
  })

  it('is plain nodes where its values would go in a circle through others', () => {
    const graph = new MxGraph()
    const number = (value: MxValue) => ({ type: 'float' as const, value })
    graph.define('r', { title: 'Round', settings: [{ name: 'k', title: 'K', value: 0.25 }] })
    graph.define('s', { title: 'Straight', settings: [] })
    graph.group = 'r'
    const first = graph.node('sin', 'float', { in: number({ setting: 'k' }) })
    graph.group = ''
    const outside = graph.node('cos', 'float', { in: number(first) })
    graph.group = 'r'
    const back = graph.node('exp', 'float', { in: number(outside) })
    graph.group = 's'
    const end = graph.node('ln', 'float', { in: number(back) })
    graph.group = ''
    graph.output('out', 'float', end)
    const xml = graph.text('It').join('\n')
    expect(xml).not.toContain('It_Round')
    expect(xml).toContain('<nodedef name="ND_It_Straight"')
    expect(xml).toMatch(/<sin name="sin" type="float">\s*<input name="in" type="float" value="0.25" \/>/)
  })
})
