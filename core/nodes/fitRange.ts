import { defineNode, UNIT_SHAPE } from './declare'

export default defineNode({
  kind: 'fitRange',
  title: 'Fit range',
  family: 'Shaping',
  help: 'Stretches a value so that it runs from 0 to 1 over the surface, whatever it was before.',
  words: ['normalize', 'auto levels', 'stretch', 'contrast', 'range', 'equal'],
  inputs: {
    value: {
      type: 'value',
      title: 'Value',
      default: 0.5,
      shape: UNIT_SHAPE,
      needed: true,
      help: 'The value to stretch.',
    },
    where: {
      type: 'value',
      title: 'Where',
      default: 1,
      shape: UNIT_SHAPE,
      help: 'Looks only where this is above a half.',
    },
  },
  params: {
    clip: {
      type: 'number',
      title: 'Clip',
      default: 0,
      min: 0,
      max: 49,
      step: 0.5,
      unit: '%',
      help: 'How much of the area may lie beyond each end.',
    },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower({ b, value, number }) {
    const x = value('value')
    const where = value('where')
    const clip = b.mul(number('clip'), b.constant(0.01))
    const high = b.quantile(x, where, clip)
    const low = b.quantile(x, where, b.sub(b.constant(1), clip))
    return { value: { type: 'value', value: b.clamp01(b.div(b.sub(x, low), b.sub(high, low))) } }
  },
})
