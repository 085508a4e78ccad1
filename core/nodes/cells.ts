import { defineNode, UNIT_SHAPE } from './declare'
import { BENDING, DETAIL, laid, PLACING, ragged, SEED } from './placing'

export default defineNode({
  kind: 'cells',
  title: 'Cells',
  family: 'Patterns',
  help: 'Space divided among scattered points, each with its own cell: the Worley noise of the MaterialX standard.',
  words: ['worley', 'voronoi', 'cellular', 'stones', 'scales', 'pebbles', 'cobbles', 'mosaic', 'chips'],
  onUvs: { param: 'sits', values: ['uv'], instead: 'space' },
  texels: 4,
  inputs: { bend: BENDING.input },
  params: {
    ...PLACING,
    bending: BENDING.param,
    jitter: {
      type: 'number',
      title: 'Scatter',
      default: 1,
      ...UNIT_SHAPE,
      help: '0 is a regular grid, 1 is scattered at random.',
    },
    ...DETAIL,
    seed: SEED,
  },
  outputs: {
    value: { type: 'value', title: 'Per cell' },
    distance: { type: 'value', title: 'From the middle' },
    border: { type: 'value', title: 'From the border' },
  },
  lower(c) {
    const { b, number } = c
    const jitter = number('jitter')
    const [first, second, own] = laid(c, at => {
      const p = ragged(c, at)
      return [
        b.op('worley3', [...p, jitter]),
        b.op('worley3second', [...p, jitter]),
        b.op('worley3cell', [...p, jitter]),
      ]
    })
    return {
      value: { type: 'value', value: own },
      distance: { type: 'value', value: b.clamp01(first) },
      border: { type: 'value', value: b.clamp01(b.sub(second, first)) },
    }
  },
})
