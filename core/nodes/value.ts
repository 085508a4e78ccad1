import { defineNode } from './declare'

export default defineNode({
  kind: 'value',
  title: 'Value',
  family: 'Shaping',
  help: 'One number, to drive several inputs at once.',
  words: ['constant', 'number', 'float', 'slider'],
  inputs: {},
  params: {
    value: { type: 'number', title: 'Value', default: 0.5, min: -1000, max: 1000, step: 0.01, help: 'The number.' },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower: ({ number }) => ({ value: { type: 'value', value: number('value') } }),
})
