import type { Builder } from '../program/builder'
import type { Ref } from '../program/ops'
import { defineNode, UNIT_SHAPE } from './declare'

const one = (b: Builder, x: Ref): Ref => b.sub(b.constant(1), x)
const MODES: Record<string, { title: string; lower: (b: Builder, x: Ref, y: Ref) => Ref }> = {
  multiply: { title: 'Multiply: where both are', lower: (b, x, y) => b.mul(x, y) },
  screen: { title: 'Screen: where either is', lower: (b, x, y) => one(b, b.mul(one(b, x), one(b, y))) },
  add: { title: 'Add', lower: (b, x, y) => b.add(x, y) },
  subtract: { title: 'Subtract: A without B', lower: (b, x, y) => b.sub(x, y) },
  lighten: { title: 'Lighten: the larger', lower: (b, x, y) => b.max(x, y) },
  darken: { title: 'Darken: the smaller', lower: (b, x, y) => b.min(x, y) },
  difference: { title: 'Difference', lower: (b, x, y) => b.op('abs', [b.sub(x, y)]) },
  overlay: {
    title: 'Overlay: B with the contrast of A',
    lower: (b, x, y) =>
      b.op('select', [x, one(b, b.mul(b.constant(2), b.mul(one(b, x), one(b, y)))), b.mul(b.constant(2), b.mul(x, y))]),
  },
}
export const COMBINE_MODES = Object.keys(MODES)

export default defineNode({
  kind: 'combine',
  title: 'Combine',
  family: 'Shaping',
  help: 'Joins two masks into one. The result stays between 0 and 1.',
  words: [
    'blend masks',
    'multiply',
    'screen',
    'lighten',
    'darken',
    'overlay',
    'and',
    'or',
    'intersect',
    'union',
    'without',
  ],
  inputs: {
    a: { type: 'value', title: 'A', default: 0, shape: UNIT_SHAPE, help: 'The first mask.' },
    b: { type: 'value', title: 'B', default: 1, shape: UNIT_SHAPE, help: 'The second mask.' },
    amount: { type: 'value', title: 'Amount', default: 1, shape: UNIT_SHAPE, help: '0 leaves A as it is.' },
  },
  params: {
    mode: {
      type: 'choice',
      title: 'How',
      default: 'multiply',
      help: 'What is made of A and B.',
      options: Object.entries(MODES).map(([value, m]) => ({ value, title: m.title })),
    },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower({ b, choice, value }) {
    const x = b.clamp01(value('a'))
    const y = b.clamp01(value('b'))
    return {
      value: {
        type: 'value',
        value: b.clamp01(b.mix(x, MODES[choice('mode')]!.lower(b, x, y), b.clamp01(value('amount')))),
      },
    }
  },
})
