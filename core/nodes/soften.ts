import { defineNode, UNIT_SHAPE } from './declare'

export default defineNode({
  kind: 'soften',
  title: 'Soften',
  family: 'Shaping',
  help: 'Softens a value along the surface, so that no UV seam shows; the mean stays. It works from vertex to vertex, so it cannot be finer than the analysis mesh.',
  words: ['blur', 'smooth', 'diffuse', 'feather', 'spread', 'average'],
  inputs: {
    value: {
      type: 'value',
      title: 'Value',
      default: 0.5,
      shape: UNIT_SHAPE,
      needed: true,
      help: 'The value to soften.',
    },
  },
  params: {
    radius: {
      type: 'number',
      title: 'Radius',
      default: 20,
      min: 0,
      max: 100_000,
      step: 1,
      unit: 'mm',
      help: 'About how far values spread.',
    },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower({ b, value, number }) {
    return {
      value: {
        type: 'value',
        value: b.gather({
          op: 'spread',
          way: 'soften',
          of: value('value'),
          amount: b.mul(number('radius'), b.constant(0.001)),
          edge: b.constant(0),
        }),
      },
    }
  },
})
