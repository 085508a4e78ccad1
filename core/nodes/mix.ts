import type { PortType } from '../graph/types'
import { defineNode, UNIT_SHAPE, type ParamValues } from './declare'

const kindOf = (p: ParamValues): PortType => (p.what === 'value' ? 'value' : 'color')

export default defineNode({
  kind: 'mix',
  title: 'Mix',
  family: 'Color',
  help: 'Goes from A to B by an amount. The amount may be a mask.',
  words: ['blend', 'lerp', 'interpolate', 'crossfade', 'mask'],
  mask: 'amount',
  inputs: {
    a: { type: kindOf, title: 'A', default: [0, 0, 0], help: 'What shows where the amount is 0.' },
    b: { type: kindOf, title: 'B', default: [1, 1, 1], help: 'What shows where the amount is 1.' },
    amount: { type: 'value', title: 'Amount', default: 0.5, shape: UNIT_SHAPE, help: 'How much of B.' },
  },
  params: {
    what: {
      type: 'choice',
      title: 'Of',
      default: 'color',
      help: 'What is mixed.',
      options: [
        { value: 'color', title: 'Colors' },
        { value: 'value', title: 'Values' },
      ],
    },
  },
  outputs: { out: { type: kindOf, title: 'Mixed' } },
  lower({ b, choice, color, value }) {
    const t = value('amount')
    return choice('what') === 'value'
      ? { out: { type: 'value', value: b.mix(value('a'), value('b'), t) } }
      : { out: { type: 'color', value: b.map3((x, y) => b.mix(x!, y!, t), color('a'), color('b')) } }
  },
})
