import { fromOklabInGamut, toOklab } from '../program/color'
import { defineNode } from './declare'

export default defineNode({
  kind: 'adjustColor',
  title: 'Adjust color',
  family: 'Color',
  help: 'Turns the hue, strengthens or weakens the chroma and moves the lightness of a color, evenly to the eye (OKLCH), inside the gamut.',
  words: ['hue', 'saturation', 'chroma', 'brightness', 'lightness', 'darken', 'desaturate', 'correct', 'tint'],
  inputs: {
    color: { type: 'color', title: 'Color', default: [0.2, 0.35, 0.3], needed: true, help: 'The color to adjust.' },
  },
  params: {
    hue: {
      type: 'number',
      title: 'Hue',
      default: 0,
      min: -180,
      max: 180,
      step: 1,
      unit: '°',
      help: 'How far the hue turns.',
    },
    chroma: {
      type: 'number',
      title: 'Chroma',
      default: 100,
      min: 0,
      max: 300,
      step: 1,
      unit: '%',
      help: '0 is gray, 100 as it was.',
    },
    lightness: {
      type: 'number',
      title: 'Lightness',
      default: 0,
      min: -100,
      max: 100,
      step: 1,
      unit: '%',
      help: 'Points of OKLCH lightness added.',
    },
  },
  outputs: { color: { type: 'color', title: 'Color' } },
  lower({ b, color, number }) {
    const [L, A, B] = toOklab(b, color('color'))
    const angle = b.mul(number('hue'), b.constant(Math.PI / 180))
    const gain = b.mul(number('chroma'), b.constant(0.01))
    const cos = b.mul(gain, b.op('cos', [angle]))
    const sin = b.mul(gain, b.op('sin', [angle]))
    return {
      color: {
        type: 'color',
        value: fromOklabInGamut(b, [
          b.add(L, b.mul(number('lightness'), b.constant(0.01))),
          b.sub(b.mul(A, cos), b.mul(B, sin)),
          b.add(b.mul(A, sin), b.mul(B, cos)),
        ]),
      },
    }
  },
})
