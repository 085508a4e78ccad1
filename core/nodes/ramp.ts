import { fromOklab, toOklab } from '../program/color'
import { defineNode, UNIT_SHAPE } from './declare'

export default defineNode({
  kind: 'ramp',
  title: 'Ramp',
  family: 'Color',
  help: 'Turns a value into a color along stops.',
  words: ['gradient', 'color stops', 'lookup', 'colorize', 'map', 'palette'],
  inputs: {
    value: {
      type: 'value',
      title: 'Value',
      default: 0.5,
      shape: UNIT_SHAPE,
      needed: true,
      help: 'Where along the ramp: 0 is its left end, 1 its right.',
    },
  },
  params: {
    stops: {
      type: 'stops',
      title: 'Stops',
      help: 'Colors and their places.',
      default: [
        { at: 0, color: [0.02, 0.02, 0.02] },
        { at: 1, color: [0.8, 0.8, 0.8] },
      ],
    },
    between: {
      type: 'choice',
      title: 'Between stops',
      default: 'oklab',
      help: 'How colors pass into one another: evenly to the eye, as light adds up, or not at all, which makes a palette whose shares are the widths.',
      options: [
        { value: 'oklab', title: 'Even to the eye (OKLab)' },
        { value: 'linear', title: 'Linear light' },
        { value: 'none', title: 'Nothing: each color up to the next' },
      ],
    },
  },
  outputs: { color: { type: 'color', title: 'Color' } },
  lower({ b, value, stops, choice }) {
    const x = value('value')
    const lab = choice('between') === 'oklab'
    const points = stops('stops').map(s => ({ at: s.at, color: lab ? toOklab(b, s.color) : s.color }))
    let color = points[0]!.color
    for (let i = 1; i < points.length; i++) {
      const from = points[i - 1]!
      const to = points[i]!
      if (choice('between') === 'none') {
        const reached = b.sub(b.constant(1), b.op('less', [x, to.at]))
        color = b.map3((a, c) => b.op('select', [reached, c!, a!]), color, to.color)
        continue
      }
      const gap = b.sub(to.at, from.at)
      // Two stops at one place: a hard edge, not a division by nothing.
      const t = b.op('select', [
        b.op('less', [b.constant(1e-6), gap]),
        b.clamp01(b.div(b.sub(x, from.at), gap)),
        b.sub(b.constant(1), b.op('less', [x, to.at])),
      ])
      color = b.map3((a, c) => b.mix(a!, c!, t), color, to.color)
    }
    return { color: { type: 'color', value: lab ? b.map3(c => b.max(c!, b.constant(0)), fromOklab(b, color)) : color } }
  },
})
