import { defineNode, UNIT_SHAPE } from './declare'

export default defineNode({
  kind: 'steps',
  title: 'Steps',
  family: 'Shaping',
  help: 'Cuts a value into a few even levels, from 0 to 1.',
  words: ['posterize', 'quantize', 'levels', 'terraces', 'bands', 'discrete'],
  inputs: {
    value: { type: 'value', title: 'Value', default: 0.5, shape: UNIT_SHAPE, needed: true, help: 'The value to cut.' },
  },
  params: {
    count: {
      type: 'number',
      title: 'Levels',
      default: 4,
      min: 2,
      max: 100,
      step: 1,
      whole: true,
      help: 'How many different values come out.',
    },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower({ b, value, number }) {
    const n = number('count')
    const top = b.sub(n, b.constant(1))
    return {
      value: { type: 'value', value: b.div(b.min(b.op('floor', [b.mul(b.clamp01(value('value')), n)]), top), top) },
    }
  },
})
