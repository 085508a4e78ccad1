import type { PortType } from '../graph/types'
import { defineNode, type ParamValues } from './declare'

export default defineNode({
  kind: 'echo',
  title: 'Echo',
  family: 'Order',
  help: 'Stands for a port of a node far away, so that no wire need cross the page.',
  words: ['link', 'reference', 'reroute', 'portal', 'alias', 'remote', 'shortcut'],
  inputs: {},
  params: {
    of: { type: 'port', title: 'Of', default: '', help: 'The output that it stands for.' },
    carries: {
      type: 'choice',
      title: 'Carries',
      default: 'value',
      help: 'What runs through that output.',
      options: [
        { value: 'value', title: 'A value' },
        { value: 'color', title: 'A color' },
        { value: 'vector', title: 'A vector' },
        { value: 'finish', title: 'A finish' },
      ],
      when: () => false,
    },
  },
  outputs: { out: { type: (p: ParamValues) => p.carries as PortType, title: 'Echo' } },
  // Wires from an echo are followed to its port before a look is lowered.
  lower: () => ({}),
})
