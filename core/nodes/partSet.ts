import { defineNode } from './declare'

export default defineNode({
  kind: 'partSet',
  title: 'Part set',
  family: 'From the mesh',
  help: 'A mask from a part set of the Mesh tab, by name: 1 on its parts, 0 on all others. A name that the project does not have reads as 0.',
  words: ['selection', 'choice', 'group', 'which parts', 'only some', 'mask', 'filter', 'collection'],
  inputs: {},
  params: {
    set: { type: 'set', title: 'Set', default: '', help: 'Which part set of the project.' },
  },
  outputs: { value: { type: 'value', title: 'Inside' }, outside: { type: 'value', title: 'Outside' } },
  lower({ b, choice }) {
    const inside = b.set(choice('set'))
    return { value: { type: 'value', value: inside }, outside: { type: 'value', value: b.sub(b.constant(1), inside) } }
  },
})
