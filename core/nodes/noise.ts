import { defineNode, UNIT_SHAPE } from './declare'
import { BENDING, laid, PLACING, SEED } from './placing'

export default defineNode({
  kind: 'noise',
  title: 'Noise',
  family: 'Patterns',
  help: 'Soft, cloudy patches in space, free of UV seams: the fractal noise of the MaterialX standard.',
  words: ['fractal', 'clouds', 'blotches', 'gradient noise', 'break-up', 'patches', 'texture', 'octaves'],
  onUvs: { param: 'sits', values: ['uv'], instead: 'space' },
  texels: 2,
  inputs: { bend: BENDING.input },
  params: {
    ...PLACING,
    bending: BENDING.param,
    detail: {
      type: 'number',
      title: 'Detail',
      default: 4,
      min: 1,
      max: 10,
      step: 1,
      whole: true,
      help: 'How many finer layers are added, each half as wide.',
    },
    strength: {
      type: 'number',
      title: 'Detail strength',
      default: 0.5,
      ...UNIT_SHAPE,
      help: 'How strong each finer layer is, next to the one before.',
    },
    contrast: {
      type: 'number',
      title: 'Contrast',
      default: 1,
      min: 0,
      max: 8,
      step: 0.05,
      help: 'Spreads the values around the middle.',
    },
    seed: SEED,
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower(c) {
    const { b, number } = c
    const [sum] = laid(c, p => [b.op('fractal3', [...p, number('detail'), b.constant(2), number('strength')])])
    return {
      value: {
        type: 'value',
        value: b.clamp01(b.add(b.constant(0.5), b.mul(b.mul(sum, number('contrast')), b.constant(0.5)))),
      },
    }
  },
})
