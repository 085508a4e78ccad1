import type { Builder } from '../program/builder'
import { decodeSrgb, encodeSrgb } from '../program/color'
import type { Ref, Ref3 } from '../program/ops'
import { defineNode, UNIT_SHAPE } from './declare'

const one = (b: Builder, x: Ref): Ref => b.sub(b.constant(1), x)
const twice = (b: Builder, x: Ref): Ref => b.mul(b.constant(2), x)
const multiply = (b: Builder, x: Ref, y: Ref): Ref => b.mul(x, y)
const screen = (b: Builder, x: Ref, y: Ref): Ref => one(b, b.mul(one(b, x), one(b, y)))
/** Where x is at most 1/2, the first, else the second. */
const split = (b: Builder, x: Ref, low: Ref, high: Ref): Ref => b.op('select', [x, high, low])
const hardLight = (b: Builder, below: Ref, above: Ref): Ref =>
  split(b, above, multiply(b, below, twice(b, above)), screen(b, below, b.sub(twice(b, above), b.constant(1))))
/** 1 where x is 0. */
const none = (b: Builder, x: Ref): Ref => one(b, b.op('less', [b.constant(0), x]))

/**
 * The separable modes of W3C Compositing and Blending Level 1, section 9.1: `below` is its backdrop, `above` its
 * source.
 */
const MODES: Record<string, { title: string; lower: (b: Builder, below: Ref, above: Ref) => Ref }> = {
  multiply: { title: 'Multiply', lower: multiply },
  screen: { title: 'Screen', lower: screen },
  overlay: { title: 'Overlay', lower: (b, below, above) => hardLight(b, above, below) },
  darken: { title: 'Darken', lower: (b, below, above) => b.min(below, above) },
  lighten: { title: 'Lighten', lower: (b, below, above) => b.max(below, above) },
  colorDodge: {
    title: 'Color dodge',
    lower: (b, below, above) =>
      b.op('select', [
        none(b, below),
        b.constant(0),
        b.op('select', [none(b, one(b, above)), b.constant(1), b.min(b.constant(1), b.div(below, one(b, above)))]),
      ]),
  },
  colorBurn: {
    title: 'Color burn',
    lower: (b, below, above) =>
      b.op('select', [
        none(b, one(b, below)),
        b.constant(1),
        b.op('select', [none(b, above), b.constant(0), one(b, b.min(b.constant(1), b.div(one(b, below), above)))]),
      ]),
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
  exclusion: {
    title: 'Exclusion',
    lower: (b, below, above) => b.sub(b.add(below, above), twice(b, b.mul(below, above))),
  },
}

/** Luminosity as section 9.2 of the standard weighs it. */
const lum = (b: Builder, c: Ref3): Ref => b.row3(c, [0.3, 0.59, 0.11])
const least = (b: Builder, c: Ref3): Ref => b.min(b.min(c[0], c[1]), c[2])
const most = (b: Builder, c: Ref3): Ref => b.max(b.max(c[0], c[1]), c[2])
const saturation = (b: Builder, c: Ref3): Ref => b.sub(most(b, c), least(b, c))
/** `SetLum` and `ClipColor`: moved to a luminosity, then drawn toward gray until all components fit. */
function setLum(b: Builder, c: Ref3, l: Ref): Ref3 {
  const moved = b.map3(x => b.add(x!, b.sub(l, lum(b, c))), c)
  const gray = lum(b, moved)
  const low = least(b, moved)
  const zero = b.constant(0)
  const whole = b.constant(1)
  const lifted = b.op('select', [b.op('less', [low, zero]), b.div(gray, b.sub(gray, low)), whole])
  const raised = b.map3(x => b.add(gray, b.mul(b.sub(x!, gray), lifted)), moved)
  const high = most(b, raised)
  const lowered = b.op('select', [b.op('less', [whole, high]), b.div(b.sub(whole, gray), b.sub(high, gray)), whole])
  return b.map3(x => b.add(gray, b.mul(b.sub(x!, gray), lowered)), raised)
}
/** `SetSat`: the smallest component to 0, the largest to s, the middle one in proportion. */
const setSat = (b: Builder, c: Ref3, s: Ref): Ref3 =>
  b.map3(x => b.div(b.mul(b.sub(x!, least(b, c)), s), saturation(b, c)), c)

/** The modes that look at all three components, section 9.2. */
const WHOLE_MODES: Record<string, { title: string; lower: (b: Builder, below: Ref3, above: Ref3) => Ref3 }> = {
  hue: { title: 'Hue', lower: (b, below, above) => setLum(b, setSat(b, above, saturation(b, below)), lum(b, below)) },
  saturation: {
    title: 'Saturation',
    lower: (b, below, above) => setLum(b, setSat(b, below, saturation(b, above)), lum(b, below)),
  },
  color: { title: 'Color', lower: (b, below, above) => setLum(b, above, lum(b, below)) },
  luminosity: { title: 'Luminosity', lower: (b, below, above) => setLum(b, below, lum(b, above)) },
}
/** Modes on light itself, without encoding: what a renderer does with factors and lights. */
const LIGHT_MODES: Record<string, { title: string; lower: (b: Builder, below: Ref, above: Ref) => Ref }> = {
  product: { title: 'Multiply as light', lower: multiply },
  sum: { title: 'Add as light', lower: (b, below, above) => b.add(below, above) },
}
export const BLEND_MODES = [...Object.keys(MODES), ...Object.keys(WHOLE_MODES)]

export default defineNode({
  kind: 'blendColors',
  title: 'Blend colors',
  family: 'Color',
  help: 'Lays one color over another by a blend mode of the W3C standard, on encoded sRGB as picture editors and browsers do; or multiplies or adds them as light.',
  words: [
    'multiply',
    'screen',
    'overlay',
    'soft light',
    'hard light',
    'dodge',
    'burn',
    'difference',
    'layer mode',
    'composite',
    'hue',
    'luminosity',
  ],
  inputs: {
    below: { type: 'color', title: 'Below', default: [0.5, 0.5, 0.5], help: 'The color that lies below.' },
    above: { type: 'color', title: 'Above', default: [0.5, 0.5, 0.5], help: 'The color that is laid over it.' },
    amount: { type: 'value', title: 'Amount', default: 1, shape: UNIT_SHAPE, help: 'How much of the blend shows.' },
  },
  params: {
    mode: {
      type: 'choice',
      title: 'Mode',
      default: 'multiply',
      help: 'How the two are blended.',
      options: Object.entries({ ...MODES, ...WHOLE_MODES, ...LIGHT_MODES }).map(([value, m]) => ({
        value,
        title: m.title,
      })),
    },
  },
  outputs: { color: { type: 'color', title: 'Color' } },
  lower({ b, choice, color, value }) {
    const t = b.clamp01(value('amount'))
    const mode = choice('mode')
    const light = LIGHT_MODES[mode]
    if (light) {
      const below = color('below')
      const blended = b.map3((x, y) => light.lower(b, x!, y!), below, color('above'))
      return { color: { type: 'color', value: b.map3((x, y) => b.mix(x!, y!, t), below, blended) } }
    }
    const encoded = (name: string) => b.map3(x => encodeSrgb(b, b.clamp01(x!)), color(name))
    const below = encoded('below')
    const above = encoded('above')
    const blended =
      WHOLE_MODES[mode]?.lower(b, below, above) ?? b.map3((x, y) => MODES[mode]!.lower(b, x!, y!), below, above)
    return {
      color: { type: 'color', value: b.map3((x, y) => decodeSrgb(b, b.clamp01(b.mix(x!, y!, t))), below, blended) },
    }
  },
})
