import { defineNode, UNIT_SHAPE } from './declare'

export default defineNode({
  kind: 'invert',
  title: 'Invert',
  family: 'Shaping',
  help: 'Turns a mask around: 0 becomes 1, 1 becomes 0.',
  words: ['flip', 'negative', 'opposite', 'one minus', 'reverse', 'not'],
  inputs: {
    value: {
      type: 'value',
      title: 'Value',
      default: 0,
      shape: UNIT_SHAPE,
      needed: true,
      help: 'The mask to turn around.',
    },
  },
  params: {},
  outputs: { value: { type: 'value', title: 'Value' } },
  lower: ({ b, value }) => ({ value: { type: 'value', value: b.sub(b.constant(1), value('value')) } }),
})
