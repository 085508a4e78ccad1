import type { Builder } from '../program/builder'
import type { Ref } from '../program/ops'
import { defineNode } from './declare'

const SHAPE = { min: -1000, max: 1000, step: 0.01 }
const OPERATIONS: Record<string, { title: string; lower: (b: Builder, x: Ref, y: Ref) => Ref }> = {
  add: { title: 'A + B', lower: (b, x, y) => b.add(x, y) },
  subtract: { title: 'A − B', lower: (b, x, y) => b.sub(x, y) },
  multiply: { title: 'A × B', lower: (b, x, y) => b.mul(x, y) },
  divide: { title: 'A ÷ B', lower: (b, x, y) => b.div(x, y) },
  power: { title: 'A to the power B', lower: (b, x, y) => b.op('pow', [x, y]) },
  smaller: { title: 'The smaller', lower: (b, x, y) => b.min(x, y) },
  larger: { title: 'The larger', lower: (b, x, y) => b.max(x, y) },
  less: { title: 'A less than B', lower: (b, x, y) => b.op('less', [x, y]) },
  difference: { title: 'Difference', lower: (b, x, y) => b.op('abs', [b.sub(x, y)]) },
  remainder: {
    title: 'Remainder of A ÷ B',
    lower: (b, x, y) => b.sub(x, b.mul(y, b.op('floor', [b.div(x, y)]))),
  },
  sine: {
    title: 'Sine of A turns',
    lower: (b, x) => b.op('sin', [b.mul(b.op('fract', [x]), b.constant(2 * Math.PI))]),
  },
}

export default defineNode({
  kind: 'math',
  title: 'Math',
  family: 'Shaping',
  help: 'Arithmetic on two values. Dividing by 0 gives 0; a power of a negative number counts it as 0.',
  words: ['maths', 'add', 'subtract', 'multiply', 'divide', 'power', 'minimum', 'maximum', 'modulo', 'sine', 'compare'],
  inputs: {
    a: { type: 'value', title: 'A', default: 0, shape: SHAPE, help: 'The first number.' },
    b: { type: 'value', title: 'B', default: 1, shape: SHAPE, help: 'The second number.' },
  },
  params: {
    operation: {
      type: 'choice',
      title: 'Operation',
      default: 'multiply',
      help: 'What is done with A and B.',
      options: Object.entries(OPERATIONS).map(([value, o]) => ({ value, title: o.title })),
    },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower: ({ b, choice, value }) => ({
    value: { type: 'value', value: OPERATIONS[choice('operation')]!.lower(b, value('a'), value('b')) },
  }),
})
