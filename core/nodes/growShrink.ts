import { defineNode, UNIT_SHAPE } from './declare'

export default defineNode({
  kind: 'growShrink',
  title: 'Grow and shrink',
  family: 'Shaping',
  help: 'Moves the edge of a mask, where it passes one half, along the surface. It works from vertex to vertex, so it cannot be finer than the analysis mesh.',
  words: ['expand', 'dilate', 'erode', 'offset', 'widen', 'thin', 'contract', 'border', 'outline'],
  inputs: {
    value: {
      type: 'value',
      title: 'Mask',
      default: 0.5,
      shape: UNIT_SHAPE,
      needed: true,
      help: 'The mask whose edge moves.',
    },
  },
  params: {
    amount: {
      type: 'number',
      title: 'Amount',
      default: 10,
      min: -100_000,
      max: 100_000,
      step: 1,
      unit: 'mm',
      help: 'How far the edge moves: above 0 the mask grows, below 0 it shrinks.',
    },
    width: {
      type: 'number',
      title: 'Soft edge',
      default: 5,
      min: 0,
      max: 100_000,
      step: 1,
      unit: 'mm',
      help: 'How wide the edge is afterward.',
    },
  },
  outputs: { value: { type: 'value', title: 'Mask' } },
  lower({ b, value, number }) {
    const meters = (name: string) => b.mul(number(name), b.constant(0.001))
    return {
      value: {
        type: 'value',
        value: b.gather({
          op: 'spread',
          way: 'move',
          of: value('value'),
          amount: meters('amount'),
          edge: meters('width'),
        }),
      },
    }
  },
})
