import { defineNode, UNIT_SHAPE } from './declare'

export default defineNode({
  kind: 'levels',
  title: 'Levels',
  family: 'Shaping',
  help: 'Stretches a value from one range to another and bends its middle.',
  words: ['contrast', 'gamma', 'remap', 'black point', 'white point', 'range', 'threshold'],
  inputs: {
    value: {
      type: 'value',
      title: 'Value',
      default: 0.5,
      shape: UNIT_SHAPE,
      needed: true,
      help: 'The value to reshape.',
    },
  },
  params: {
    inLow: {
      type: 'number',
      title: 'From, low',
      default: 0,
      ...UNIT_SHAPE,
      help: 'This and anything below becomes the low end.',
    },
    inHigh: {
      type: 'number',
      title: 'From, high',
      default: 1,
      ...UNIT_SHAPE,
      help: 'This and anything above becomes the high end.',
    },
    gamma: {
      type: 'number',
      title: 'Middle',
      default: 1,
      min: 0.05,
      max: 20,
      step: 0.05,
      help: 'Above 1 lifts the middle, below 1 lowers it.',
    },
    outLow: { type: 'number', title: 'To, low', default: 0, ...UNIT_SHAPE, help: 'What the low end becomes.' },
    outHigh: { type: 'number', title: 'To, high', default: 1, ...UNIT_SHAPE, help: 'What the high end becomes.' },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower({ b, value, number }) {
    const t = b.clamp01(b.div(b.sub(value('value'), number('inLow')), b.sub(number('inHigh'), number('inLow'))))
    const bent = b.op('pow', [t, b.div(b.constant(1), number('gamma'))])
    return { value: { type: 'value', value: b.mix(number('outLow'), number('outHigh'), bent) } }
  },
})
