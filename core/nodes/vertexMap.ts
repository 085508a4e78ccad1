import type { Ref3 } from '../program/ops'
import { defineNode } from './declare'

export default defineNode({
  kind: 'vertexMap',
  title: 'Vertex map',
  family: 'From the mesh',
  help: "Values stored on the mesh's vertices, by name. A name that the mesh does not have reads as 0.",
  words: ['attribute', 'vertex color', 'primvar', 'weight', 'mask', 'geometry property'],
  inputs: {},
  params: {
    map: { type: 'map', title: 'Map', default: '', help: 'Which vertex map of the mesh.' },
    component: {
      type: 'component',
      title: 'Component',
      default: 0,
      help: 'Which of its numbers the value output carries.',
    },
  },
  outputs: { value: { type: 'value', title: 'Value' }, color: { type: 'color', title: 'Color' } },
  lower({ b, choice, mapComponents }) {
    const name = choice('map')
    const size = mapComponents(name) ?? 0
    const read = (component: number) => (component < size ? b.map(name, component) : b.constant(0))
    const gray = read(0)
    return {
      value: { type: 'value', value: read(Number(choice('component'))) },
      color: { type: 'color', value: size >= 3 ? ([0, 1, 2].map(read) as Ref3) : [gray, gray, gray] },
    }
  },
})
