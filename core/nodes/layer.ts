import { CHANNEL_NAMES, CHANNELS, type Channel } from '../graph/types'
import { defineNode, UNIT_SHAPE, type FinishRefs, type ParamDeclaration } from './declare'

const COVER = { value: 'cover', title: 'Covered where the mask is above a half' }
const LEAVE = { value: 'leave', title: 'Left as it is below' }
const WAYS = [{ value: 'blend', title: 'Blended by the mask' }, COVER, LEAVE]
const HEIGHT_WAYS = [
  { value: 'add', title: 'Added' },
  { value: 'blend', title: 'Replaced by the mask' },
  { value: 'higher', title: 'The higher of the two' },
  COVER,
  LEAVE,
]
const wayOf = (c: Channel): string => `${c}Way`
const shareOf = (c: Channel): string => `${c}Amount`

export default defineNode({
  kind: 'layer',
  title: 'Layer',
  family: 'Finishes',
  help: 'Lays a finish over another through a mask. Channels are blended together, or each in its own way and amount: blended, covered or left alone. Heights add up unless told otherwise.',
  words: ['stack', 'coat', 'paint over', 'dirt over', 'mask material', 'blend materials', 'overlay finish'],
  mask: 'mask',
  inputs: {
    below: {
      type: 'finish',
      title: 'Below',
      missing: 'A plain gray finish.',
      needed: true,
      help: 'The finish that shows where the mask is 0.',
    },
    above: {
      type: 'finish',
      title: 'Above',
      missing: 'Nothing is laid over.',
      needed: true,
      help: 'The finish that shows where the mask is 1.',
    },
    mask: {
      type: 'value',
      title: 'Mask',
      default: 1,
      shape: UNIT_SHAPE,
      needed: true,
      missing: 'It lies everywhere.',
      help: 'Where the upper finish lies.',
    },
    amount: { type: 'value', title: 'Amount', default: 1, shape: UNIT_SHAPE, help: 'How much of it shows there.' },
  },
  params: {
    opens: {
      type: 'choice',
      title: 'Open channels',
      default: 'through',
      help: 'What happens to channels that the upper finish leaves alone. An opaque coat fills them, so that nothing shines through by oversight.',
      options: [
        { value: 'through', title: 'The one below shows' },
        { value: 'coat', title: 'Filled: an opaque coat' },
      ],
    },
    channels: {
      type: 'choice',
      title: 'Channels',
      default: 'together',
      help: 'Whether all channels follow the mask alike.',
      options: [
        { value: 'together', title: 'All alike' },
        { value: 'each', title: 'Each in its own way' },
      ],
    },
    ...Object.fromEntries(
      CHANNEL_NAMES.flatMap((c): [string, ParamDeclaration][] => [
        [
          wayOf(c),
          {
            type: 'choice',
            title: CHANNELS[c].title,
            default: c === 'height' ? 'add' : 'blend',
            help: `What happens to the ${CHANNELS[c].title.toLowerCase()}.`,
            options: c === 'height' ? HEIGHT_WAYS : WAYS,
            when: value => value('channels') === 'each',
          },
        ],
        [
          shareOf(c),
          {
            type: 'number',
            title: `of it`,
            default: 1,
            ...UNIT_SHAPE,
            help: `How much of the upper ${CHANNELS[c].title.toLowerCase()} shows.`,
            when: value => value('channels') === 'each' && value(wayOf(c)) !== 'leave',
          },
        ],
      ]),
    ),
  },
  outputs: { finish: { type: 'finish', title: 'Finish' } },
  lower({ b, finish, value, number, choice, wired }) {
    const below = finish('below')
    const above = finish('above')
    const mask = b.clamp01(value('mask'))
    const amount = b.clamp01(value('amount'))
    const each = choice('channels') === 'each'
    const coat = choice('opens') === 'coat' && wired('above')
    const out: FinishRefs = { ...below }
    for (const name of CHANNEL_NAMES) {
      const plain = CHANNELS[name].fallback.map(x => b.constant(x))
      const over = above[name] ?? (coat && below[name] ? plain : undefined)
      const usual = name === 'height' ? 'add' : 'blend'
      const way = each ? choice(wayOf(name)) : usual
      if (!over || way === 'leave') continue
      const strength = each ? b.mul(amount, number(shareOf(name))) : amount
      const t = b.mul(way === 'cover' ? b.op('less', [b.constant(0.5), mask]) : mask, strength)
      out[name] = over.map((x, k) => {
        const under = below[name]?.[k] ?? plain[k]!
        if (way === 'add') return b.add(under, b.mul(x, t))
        return b.mix(under, way === 'higher' ? b.max(under, x) : x, t)
      })
    }
    return { finish: { type: 'finish', value: out } }
  },
})
