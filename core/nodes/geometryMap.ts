import type { Ref } from '../program/ops'
import { defineNode, type Lowered } from './declare'

export default defineNode({
  kind: 'geometryMap',
  title: 'Geometry map',
  family: 'From the mesh',
  help: 'What is computed from the shape: edges, hollows, occlusion, thickness and more. Choose one of the Mesh tab, or compute one here. Position and Along the part have three outputs.',
  words: [
    'curvature',
    'convexity',
    'concavity',
    'cavity',
    'edges',
    'occlusion',
    'ambient occlusion',
    'thickness',
    'recess',
    'crevice',
    'border',
    'contact',
    'baked map',
  ],
  inputs: {},
  params: {
    map: { type: 'map', of: 'geometry', title: 'Map', default: '', help: 'Which geometry map of the project.' },
  },
  outputs: {
    value: { type: 'value', title: 'Value' },
    second: { type: 'value', title: 'Second' },
    third: { type: 'value', title: 'Third' },
  },
  lower({ b, choice, mapComponents }) {
    const name = choice('map')
    const size = mapComponents(name) ?? 0
    const read = (component: number): Lowered => ({
      type: 'value',
      value: (component < size ? b.map(name, component) : b.constant(0)) as Ref,
    })
    return { value: read(0), second: read(1), third: read(2) }
  },
})
