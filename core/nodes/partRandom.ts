import type { Ref } from '../program/ops'
import { defineNode, UNIT_SHAPE } from './declare'
import { DENSE_PART, DENSE_PART_OPTION, DENSE_PARTS, drawOfDensePart } from './densePart'

export default defineNode({
  kind: 'partRandom',
  title: 'Part random',
  family: 'From the mesh',
  help: "A random value for each part, drawn from the part's own key, so it stays when the mesh is exported again. Single parts can be rolled again or given a value.",
  words: ['draw', 'vary', 'island', 'dice', 'chance', 'per part', 'id', 'patch', 'reroll'],
  inputs: {},
  params: {
    level: {
      type: 'choice',
      title: 'Level',
      default: 'part',
      help: 'What shares one draw: each part, each group, each object, each patch of a part, or each part of the dense mesh.',
      options: [
        { value: 'object', title: 'Object' },
        { value: 'group', title: 'Group' },
        { value: 'part', title: 'Part' },
        { value: 'patch', title: 'Patch' },
        DENSE_PART_OPTION,
      ],
    },
    parts: DENSE_PARTS,
    seed: { type: 'seed', title: 'Seed', default: 1, help: 'Another seed, another draw for every part.' },
    offset: {
      type: 'number',
      title: 'Offset',
      default: 0,
      min: 0,
      max: 10000,
      step: 1,
      whole: true,
      help: 'Rolls everything again and leaves the seed as it is.',
    },
    how: {
      type: 'choice',
      title: 'How',
      default: 'independent',
      help: 'Independent draws crowd here and there. Balanced ones are spread evenly, so that a palette gets the shares of its widths exactly; they move a little when parts come or go. Apart hands the values out so that touching parts differ as much as they can.',
      options: [
        { value: 'independent', title: 'Independent' },
        { value: 'count', title: 'Balanced by count' },
        { value: 'area', title: 'Balanced by area' },
        { value: 'apart', title: 'Apart: touching parts differ' },
        { value: 'apartBalanced', title: 'Apart and balanced by count' },
      ],
      when: value => value('level') !== 'patch' && value('level') !== DENSE_PART,
    },
    follow: {
      type: 'number',
      title: 'Follow the group',
      default: 0,
      ...UNIT_SHAPE,
      help: 'Blends in the draw of the group: 1 gives all its parts the same.',
      when: value => value('level') === 'part' || value('level') === 'patch',
    },
    pins: {
      type: 'pins',
      title: 'Single parts',
      default: [],
      help: 'Parts that are rolled again by themselves, or have a value of their own.',
      when: value => value('level') === 'part',
    },
  },
  outputs: {
    value: { type: 'value', title: 'Value' },
    second: { type: 'value', title: 'Second' },
    third: { type: 'value', title: 'Third' },
    signed: { type: 'value', title: 'Signed, −1 to 1' },
  },
  lower(context) {
    const { b, choice, number, pinned } = context
    const level = choice('level')
    const key = ({ object: 'objectKey', group: 'groupKey' } as const)[level] ?? 'key'
    const how = choice('how')
    /** Three streams to a roll; the first roll is the one of offset 0. */
    const streamOf = (roll: Ref, stream: number) => b.add(b.mul(roll, b.constant(8)), b.constant(stream))
    const offset = number('offset')
    const draw = (of: 'key' | 'groupKey' | 'objectKey', stream: Ref) =>
      b.op('draw', [b.part(`${of}Low`), b.part(`${of}High`), number('seed'), stream])
    const spread = (x: Ref): Ref => {
      if (how === 'independent') return x
      if (how === 'count' || how === 'area') return b.rank(x, how)
      return b.gather({ op: 'apart', of: how === 'apart' ? x : b.rank(x, 'count') })
    }
    const one = (stream: number): Ref => {
      if (level === DENSE_PART) return drawOfDensePart(context, number('seed'), streamOf(offset, stream))
      if (level === 'patch')
        return b.mix(
          b.gather({ op: 'patchDraw', seed: number('seed'), stream: streamOf(offset, stream) }),
          draw('groupKey', streamOf(offset, stream)),
          number('follow'),
        )
      const rolls = level === 'part' ? pinned('pins', 'roll') : undefined
      const own = spread(draw(key, streamOf(rolls === undefined ? offset : b.add(offset, rolls), stream)))
      const mixed =
        level === 'part' ? b.mix(own, spread(draw('groupKey', streamOf(offset, stream))), number('follow')) : own
      const is = level === 'part' ? pinned('pins', 'is') : undefined
      return is === undefined ? mixed : b.op('select', [is, pinned('pins', 'value')!, mixed])
    }
    const value = (ref: Ref) => ({ type: 'value', value: ref }) as const
    return {
      value: value(one(0)),
      second: value(one(1)),
      third: value(one(2)),
      signed: value(b.sub(b.mul(one(0), b.constant(2)), b.constant(1))),
    }
  },
})
