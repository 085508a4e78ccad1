import type { Ref } from '../program/ops'
import { defineNode, UNIT_SHAPE } from './declare'

export default defineNode({
  kind: 'coverage',
  title: 'Coverage',
  family: 'Shaping',
  help: 'Makes a mask that covers a share of the surface: the highest values first. When anything before it changes, the share stays. Where many points have the same value, as a draw per part has, whole parts are covered or not.',
  words: ['area', 'percent', 'how much', 'threshold', 'amount', 'share', 'cut', 'exact'],
  inputs: {
    value: {
      type: 'value',
      title: 'Value',
      default: 0.5,
      shape: UNIT_SHAPE,
      needed: true,
      help: 'What decides which places are covered first.',
    },
    where: {
      type: 'value',
      title: 'Where',
      default: 1,
      shape: UNIT_SHAPE,
      help: 'Counts and covers only where this is above a half: a part set, for one.',
    },
  },
  params: {
    over: {
      type: 'choice',
      title: 'Counted over',
      default: 'whole',
      help: 'Whether the share is of the whole surface, or of each part by itself.',
      options: [
        { value: 'whole', title: 'The whole surface' },
        { value: 'part', title: 'Each part by itself' },
      ],
    },
    share: {
      type: 'number',
      title: 'Share',
      default: 30,
      min: 0,
      max: 100,
      step: 1,
      unit: '%',
      help: 'How much of the area is covered.',
    },
    softness: {
      type: 'number',
      title: 'Softness',
      default: 0.1,
      ...UNIT_SHAPE,
      help: '0 is a crisp edge. A soft one runs evenly to both sides of it.',
    },
  },
  outputs: { value: { type: 'value', title: 'Mask' } },
  lower({ b, value, number, choice }) {
    const op = choice('over') === 'part' ? 'partQuantile' : 'quantile'
    const x = value('value')
    const where = value('where')
    const share = b.mul(number('share'), b.constant(0.01))
    const cutAt = (s: Ref) => b.gather({ op, of: x, where, share: s })
    const at = (s: number) => cutAt(b.constant(s))
    const cut = cutAt(share)
    const span = b.sub(at(0.02), at(0.98))
    // Nothing and everything have no edge, so softness goes away toward both.
    const ends = b.mul(
      b.min(b.constant(1), b.mul(share, b.constant(20))),
      b.min(b.constant(1), b.mul(b.sub(b.constant(1), share), b.constant(20))),
    )
    const half = b.mul(b.mul(number('softness'), b.constant(0.5)), b.mul(span, ends))
    return {
      value: {
        type: 'value',
        value: b.mul(
          b.op('smoothstep', [b.sub(cut, half), b.add(cut, half), x]),
          b.op('less', [b.constant(0.5), where]),
        ),
      },
    }
  },
})
