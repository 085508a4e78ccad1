import { defineNode } from './declare'

const SHAPE = { min: -1e5, max: 1e5, step: 0.01 }

export default defineNode({
  kind: 'remap',
  title: 'Remap',
  family: 'Shaping',
  help: 'Carries a value of any size from one range to another, such as centimeters to 0 and 1. Levels does the same for masks, with a bend.',
  words: ['range', 'fit', 'map range', 'scale', 'convert', 'normalize'],
  inputs: {
    value: { type: 'value', title: 'Value', default: 0, shape: SHAPE, needed: true, help: 'The value to carry over.' },
  },
  params: {
    fromLow: { type: 'number', title: 'From, low', default: 0, ...SHAPE, help: 'One end of what comes in.' },
    fromHigh: { type: 'number', title: 'From, high', default: 1, ...SHAPE, help: 'The other end.' },
    toLow: { type: 'number', title: 'To, low', default: 0, ...SHAPE, help: 'What the first end becomes.' },
    toHigh: { type: 'number', title: 'To, high', default: 1, ...SHAPE, help: 'What the other end becomes.' },
    hold: { type: 'toggle', title: 'Hold at the ends', default: true, help: 'Values beyond the ends stay at them.' },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower({ b, value, number }) {
    const t = b.div(b.sub(value('value'), number('fromLow')), b.sub(number('fromHigh'), number('fromLow')))
    return {
      value: { type: 'value', value: b.mix(number('toLow'), number('toHigh'), b.mix(t, b.clamp01(t), number('hold'))) },
    }
  },
})
