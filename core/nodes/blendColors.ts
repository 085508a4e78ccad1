import type { Builder } from '../program/builder'
import { decodeSrgb, encodeSrgb } from '../program/color'
import type { Ref } from '../program/ops'
import { defineNode, UNIT_SHAPE } from './declare'

const one = (b: Builder, x: Ref): Ref => b.sub(b.constant(1), x)
const twice = (b: Builder, x: Ref): Ref => b.mul(b.constant(2), x)
const multiply = (b: Builder, x: Ref, y: Ref): Ref => b.mul(x, y)
const screen = (b: Builder, x: Ref, y: Ref): Ref => one(b, b.mul(one(b, x), one(b, y)))
/** Where x is at most 1/2, the first, else the second. */
const split = (b: Builder, x: Ref, low: Ref, high: Ref): Ref => b.op('select', [x, high, low])
const hardLight = (b: Builder, below: Ref, above: Ref): Ref => split(b, above, multiply(b, below, twice(b, above)), screen(b, below, b.sub(twice(b, above), b.constant(1))))
/** 1 where x is 0. */
const none = (b: Builder, x: Ref): Ref => one(b, b.op('less', [b.constant(0), x]))

/** The separable modes of W3C Compositing and Blending Level 1, section 9.1: `below` is its backdrop, `above` its source. */
const MODES: Record<string, { title: string, lower: (b: Builder, below: Ref, above: Ref) => Ref }> = {
  multiply: { title: 'Multiply', lower: multiply },
  screen: { title: 'Screen', lower: screen },
  overlay: { title: 'Overlay', lower: (b, below, above) => hardLight(b, above, below) },
  darken: { title: 'Darken', lower: (b, below, above) => b.min(below, above) },
  lighten: { title: 'Lighten', lower: (b, below, above) => b.max(below, above) },
  colorDodge: {
    title: 'Color dodge',
    lower: (b, below, above) => b.op('select', [none(b, below), b.constant(0), b.op('select', [none(b, one(b, above)), b.constant(1), b.min(b.constant(1), b.div(below, one(b, above)))])]),
  },
  colorBurn: {
    title: 'Color burn',
    lower: (b, below, above) => b.op('select', [none(b, one(b, below)), b.constant(1), b.op('select', [none(b, above), b.constant(0), one(b, b.min(b.constant(1), b.div(one(b, below), above)))])]),
  },
  hardLight: { title: 'Hard light', lower: hardLight },
  softLight: {
    title: 'Soft light',
    lower(b, below, above) {
      const poly = b.mul(b.add(b.mul(b.sub(b.mul(b.constant(16), below), b.constant(12)), below), b.constant(4)), below)
      const d = b.op('select', [b.op('less', [b.constant(0.25), below]), b.op('sqrt', [below]), poly])
      const low = b.sub(below, b.mul(b.mul(one(b, twice(b, above)), below), one(b, below)))
      return split(b, above, low, b.add(below, b.mul(b.sub(twice(b, above), b.constant(1)), b.sub(d, below))))
    },
  },
  difference: { title: 'Difference', lower: (b, below, above) => b.op('abs', [b.sub(below, above)]) },
  exclusion: { title: 'Exclusion', lower: (b, below, above) => b.sub(b.add(below, above), twice(b, b.mul(below, above))) },
}
export const BLEND_MODES = Object.keys(MODES)

export default defineNode({
  kind: 'blendColors',
  title: 'Blend colors',
  family: 'Color',
  help: 'Lays one color over another by a blend mode of the W3C standard, on encoded sRGB as picture editors and browsers do.',
  words: ['multiply', 'screen', 'overlay', 'soft light', 'hard light', 'dodge', 'burn', 'difference', 'layer mode', 'composite'],
  inputs: {
    below: { type: 'color', title: 'Below', default: [0.5, 0.5, 0.5], help: 'The color that lies below.' },
    above: { type: 'color', title: 'Above', default: [0.5, 0.5, 0.5], help: 'The color that is laid over it.' },
    amount: { type: 'value', title: 'Amount', default: 1, shape: UNIT_SHAPE, help: 'How much of the blend shows.' },
  },
  params: { mode: { type: 'choice', title: 'Mode', default: 'multiply', help: 'How the two are blended.', options: Object.entries(MODES).map(([value, m]) => ({ value, title: m.title })) } },
  outputs: { color: { type: 'color', title: 'Color' } },
  lower({ b, choice, color, value }) {
    const t = b.clamp01(value('amount')), { lower } = MODES[choice('mode')]!
    return {
      color: {
        type: 'color',
        value: b.map3((x, y) => {
          const below = encodeSrgb(b, b.clamp01(x!)), above = encodeSrgb(b, b.clamp01(y!))
          return decodeSrgb(b, b.clamp01(b.mix(below, lower(b, below, above), t)))
        }, color('below'), color('above')),
      },
    }
  },
})
