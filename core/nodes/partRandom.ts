import type { Ref } from '../program/ops'
import { defineNode, UNIT_SHAPE } from './declare'

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
    how: {
      type: 'choice', title: 'How', default: 'independent', help: 'Independent draws crowd here and there. Balanced ones are spread evenly, so that a palette gets the shares of its widths exactly; they move a little when parts come or go.',
      options: [{ value: 'independent', title: 'Independent' }, { value: 'count', title: 'Balanced by count' }, { value: 'area', title: 'Balanced by area' }],
    },
    follow: { type: 'number', title: 'Follow the group', default: 0, ...UNIT_SHAPE, help: 'Blends in the draw of the group: 1 gives all its parts the same.' },
  },
  outputs: {
    value: { type: 'value', title: 'Value' },
    second: { type: 'value', title: 'Second' },
    third: { type: 'value', title: 'Third' },
    signed: { type: 'value', title: 'Signed, −1 to 1' },
  },
  lower({ b, choice, number }) {
    const key = ({ object: 'objectKey', group: 'groupKey' } as const)[choice('level')] ?? 'key'
    const how = choice('how')
    const drawn = (of: 'key' | 'groupKey' | 'objectKey', stream: number) => {
      const draw = b.op('draw', [b.part(`${of}Low`), b.part(`${of}High`), number('seed'), b.constant(stream)])
      return how === 'independent' ? draw : b.rank(draw, how as 'count' | 'area')
    }
    const draw = (stream: number) => b.mix(drawn(key, stream), drawn('groupKey', stream), number('follow')), value = (ref: Ref) => ({ type: 'value', value: ref }) as const
    return { value: value(draw(0)), second: value(draw(1)), third: value(draw(2)), signed: value(b.sub(b.mul(draw(0), b.constant(2)), b.constant(1))) }
  },
})
