import { MEASURE_WORDS } from '../mesh/measures'
import type { MeasureName } from '../mesh/partSets'
import type { MeasureReading } from '../program/ops'
import { defineNode } from './declare'

const MEASURED = [
  'area',
  'volume',
  'length',
  'width',
  'thickness',
  'flatness',
  'triangles',
  'height',
  'neighbors',
] as const satisfies readonly MeasureName[]
const FACTORS = { m: [100, 'cm'], 'm²': [1e4, 'cm²'], 'm³': [1e6, 'cm³'], '': [1, ''] } as const

export default defineNode({
  kind: 'partMeasure',
  title: 'Part measure',
  family: 'From the mesh',
  help: 'How large a part is, how high, how flat, how many others it touches: one number for each part, as it is or next to the others.',
  words: [
    'size',
    'area',
    'volume',
    'length',
    'largest',
    'smallest',
    'rank',
    'height',
    'flat',
    'by size',
    'neighbors',
    'touching',
    'contacts',
  ],
  inputs: {},
  params: {
    measure: {
      type: 'choice',
      title: 'Measure',
      default: 'area',
      help: "What is measured. Sides are along the part's own axes.",
      options: MEASURED.map(value => {
        const [, unit] = FACTORS[MEASURE_WORDS[value].unit]
        return { value, title: `${MEASURE_WORDS[value].title}${unit && ` (${unit})`}` }
      }),
    },
    as: {
      type: 'choice',
      title: 'As',
      default: 'fitted',
      help: 'How it is read.',
      options: [
        { value: 'fitted', title: 'Between the smallest and the largest' },
        { value: 'rank', title: 'A rank among the parts, 0 to 1' },
        { value: 'raw', title: 'The number itself' },
      ],
    },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower({ b, choice }) {
    const name = choice('measure') as (typeof MEASURED)[number]
    const reading = choice('as') as MeasureReading
    const value = b.measure(name, reading)
    return {
      value: {
        type: 'value',
        value: reading === 'raw' ? b.mul(value, b.constant(FACTORS[MEASURE_WORDS[name].unit][0])) : value,
      },
    }
  },
})
