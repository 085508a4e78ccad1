import { defineNode } from './declare'

export default defineNode({
  kind: 'partRandom',
  title: 'Part random',
  family: 'From the mesh',
  help: 'A random value for each part, drawn from the part\'s own key, so it stays when the mesh is exported again.',
  words: ['draw', 'vary', 'island', 'dice', 'chance', 'per part', 'id'],
  inputs: {},
  params: {
    level: {
      type: 'choice', title: 'Level', default: 'part', help: 'What shares one draw: each part, each group or each object.',
      options: [{ value: 'object', title: 'Object' }, { value: 'group', title: 'Group' }, { value: 'part', title: 'Part' }],
    },
    seed: { type: 'seed', title: 'Seed', default: 1, help: 'Another seed, another draw for every part.' },
  },
  outputs: {
    value: { type: 'value', title: 'Value' },
    second: { type: 'value', title: 'Second' },
    third: { type: 'value', title: 'Third' },
  },
  lower({ b, choice, number }) {
    const key = ({ object: 'objectKey', group: 'groupKey' } as const)[choice('level')] ?? 'key'
    const draw = (stream: number) => ({
      type: 'value',
      value: b.op('draw', [b.part(`${key}Low`), b.part(`${key}High`), number('seed'), b.constant(stream)]),
    }) as const
    return { value: draw(0), second: draw(1), third: draw(2) }
  },
})
