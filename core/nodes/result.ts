import { defineNode } from './declare'

export default defineNode({
  kind: 'result',
  title: 'Result',
  family: 'Finishes',
  help: 'The end of the look: what it is given is what the stage shows and what is delivered.',
  words: ['output', 'end', 'final'],
  inputs: {
    finish: {
      type: 'finish',
      title: 'Finish',
      missing: 'A plain gray finish.',
      needed: true,
      help: 'The finish of the whole mesh.',
    },
  },
  params: {},
  outputs: {},
  lower: () => ({}),
})
