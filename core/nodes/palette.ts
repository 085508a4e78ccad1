import type { Ref, Ref3 } from '../program/ops'
import { defineNode, UNIT_SHAPE, type LowerContext } from './declare'
import { DENSE_PART, DENSE_PART_OPTION, DENSE_PARTS, drawOfDensePart } from './densePart'

const ofParts = (value: (name: string) => unknown): boolean => value('level') !== DENSE_PART

export default defineNode({
  kind: 'palette',
  title: 'Palette',
  family: 'Color',
  help: 'Gives each part one of several colors, in exact shares of the parts or of their area. Touching parts can be kept from looking alike.',
  words: ['swatches', 'colors', 'random color', 'assortment', 'weights', 'scheme', 'tint', 'per part'],
  inputs: {},
  params: {
    colors: {
      type: 'palette',
      title: 'Colors',
      help: 'The colors, and how much of each.',
      default: [
        { at: 0.5, color: [0.27, 0.05, 0.03] },
        { at: 0.3, color: [0.5, 0.19, 0.06] },
        { at: 0.2, color: [0.05, 0.16, 0.17] },
      ],
    },
    level: {
      type: 'choice',
      title: 'Level',
      default: 'part',
      help: 'What has one color: each part, or each part of the dense mesh. Those of a dense mesh get their shares by chance.',
      options: [{ value: 'part', title: 'Part' }, DENSE_PART_OPTION],
    },
    parts: DENSE_PARTS,
    seed: { type: 'seed', title: 'Seed', default: 1, help: 'Another seed hands the colors out anew.' },
    by: {
      type: 'choice',
      title: 'Shares of',
      default: 'count',
      help: 'What the weights divide.',
      options: [
        { value: 'count', title: 'The number of parts' },
        { value: 'area', title: 'Their area' },
      ],
      when: ofParts,
    },
    follow: {
      type: 'number',
      title: 'Follow the group',
      default: 0,
      ...UNIT_SHAPE,
      help: 'Above 0, parts of one group are more often of one color.',
      when: ofParts,
    },
    differ: {
      type: 'number',
      title: 'Neighbors differ',
      default: 0,
      min: 0,
      max: 100,
      step: 1,
      help: 'How far touching parts must differ (CIEDE2000; 2 can just be told apart, 20 is another color). Parts swap colors until they do, as far as they can.',
      when: ofParts,
    },
    pins: {
      type: 'pins',
      title: 'Single parts',
      default: [],
      rolls: false,
      help: 'Parts that have a color of their own: 0 is the first one, 1 the last.',
      when: ofParts,
    },
  },
  outputs: { color: { type: 'color', title: 'Color' }, value: { type: 'value', title: 'Which, 0 to 1' } },
  lower(context) {
    const { b, choice, number, palette, pinned } = context
    const entries = palette('colors')
    const last = b.constant(Math.max(1, entries.length - 1))
    if (choice('level') === DENSE_PART) return handedOut(context, ofDenseParts(context))
    const by = choice('by') as 'count' | 'area'
    const draw = (key: 'key' | 'groupKey') =>
      b.op('draw', [b.part(`${key}Low`), b.part(`${key}High`), number('seed'), b.constant(0)])
    // Ranked after the group has had its say, so that the shares stay exact; a trace of the part's own draw breaks
    // ties.
    const of = b.rank(
      b.mix(draw('key'), b.add(draw('groupKey'), b.mul(draw('key'), b.constant(0.001))), number('follow')),
      by,
    )
    const picked = b.gather({
      op: 'pick',
      of,
      by,
      differ: number('differ'),
      list: entries.flatMap(e => [e.weight, ...e.color]),
    })
    const is = pinned('pins', 'is')
    const which = is === undefined ? picked : b.op('select', [is, b.mul(pinned('pins', 'value')!, last), picked])
    return handedOut(context, which)
  },
})

/** The number of the color that each part of the dense mesh draws. */
function ofDenseParts(context: LowerContext): Ref {
  const { b, number, palette } = context
  const weights = palette('colors').map(e => e.weight)
  const total = weights.reduce((sum, w) => b.add(sum, w))
  const drawn = b.mul(drawOfDensePart(context, number('seed'), b.constant(0)), total)
  let reached = weights[0]!
  let which = b.constant(0)
  for (const weight of weights.slice(1)) {
    which = b.add(which, b.sub(b.constant(1), b.op('less', [drawn, reached])))
    reached = b.add(reached, weight)
  }
  return which
}

/** The colors by their numbers. */
function handedOut({ b, palette }: LowerContext, which: Ref) {
  const entries = palette('colors')
  const last = b.constant(Math.max(1, entries.length - 1))
  const color = entries.slice(1).reduce<Ref3>((held, e, i) => {
    const reached = b.op('less', [b.constant(i + 0.5), which])
    return b.map3((was, is) => b.op('select', [reached, is!, was!]), held, e.color)
  }, entries[0]!.color)
  return {
    color: { type: 'color', value: color },
    value: { type: 'value', value: b.div(which, last) },
  } as const
}
