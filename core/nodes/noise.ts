import { defineNode, UNIT_SHAPE } from './declare'

export default defineNode({
  kind: 'noise',
  title: 'Noise',
  family: 'Patterns',
  help: 'Soft, cloudy patches in space, free of UV seams: the fractal noise of the MaterialX standard.',
  words: ['fractal', 'clouds', 'blotches', 'gradient noise', 'break-up', 'patches', 'texture', 'octaves'],
  inputs: {},
  params: {
    size: {
      type: 'number', title: 'Size', default: 20, min: 0.01, max: 10000, step: 0.5, unit: 'cm',
      help: 'The width of the largest patches.',
    },
    detail: { type: 'number', title: 'Detail', default: 4, min: 1, max: 10, step: 1, whole: true, help: 'How many finer layers are added, each half as wide.' },
    strength: { type: 'number', title: 'Detail strength', default: 0.5, ...UNIT_SHAPE, help: 'How strong each finer layer is, next to the one before.' },
    contrast: { type: 'number', title: 'Contrast', default: 1, min: 0, max: 8, step: 0.05, help: 'Spreads the values around the middle.' },
    seed: { type: 'seed', title: 'Seed', default: 1, help: 'Another seed, another place in the pattern.' },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower({ b, number }) {
    const perMeter = b.div(b.constant(100), number('size'))
    // The standard's noise has no seed: a seed moves the lattice by up to 512 cells, so that an export can do the same.
    const offset = (stream: number) => b.mul(b.constant(512),
      b.op('draw', [b.constant(0), b.constant(0), number('seed'), b.constant(stream)]))
    const place = (axis: 'x' | 'y' | 'z', stream: number) => b.add(b.mul(b.surface(axis), perMeter), offset(stream))
    const sum = b.op('fractal3', [place('x', 0), place('y', 1), place('z', 2),
      number('detail'), b.constant(2), number('strength')])
    return { value: { type: 'value', value: b.clamp01(b.add(b.constant(0.5), b.mul(b.mul(sum, number('contrast')), b.constant(0.5)))) } }
  },
})
