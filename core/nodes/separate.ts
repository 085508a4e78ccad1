import { luminance, toOklab } from '../program/color'
import { defineNode } from './declare'

export default defineNode({
  kind: 'separate',
  title: 'Separate',
  family: 'Color',
  help: 'Takes a color apart: red, green and blue in linear light, its luminance, and its lightness and chroma to the eye (OKLCH).',
  words: ['split', 'channels', 'components', 'red', 'green', 'blue', 'luminance', 'grayscale'],
  inputs: {
    color: { type: 'color', title: 'Color', default: [0.5, 0.5, 0.5], needed: true, help: 'The color to take apart.' },
  },
  params: {},
  outputs: {
    red: { type: 'value', title: 'Red' },
    green: { type: 'value', title: 'Green' },
    blue: { type: 'value', title: 'Blue' },
    luminance: { type: 'value', title: 'Luminance' },
    lightness: { type: 'value', title: 'Lightness' },
    chroma: { type: 'value', title: 'Chroma' },
  },
  lower({ b, color }) {
    const rgb = color('color')
    const [L, A, B] = toOklab(b, rgb)
    const chroma = b.op('sqrt', [b.add(b.mul(A, A), b.mul(B, B))])
    const named = { red: rgb[0], green: rgb[1], blue: rgb[2], luminance: luminance(b, rgb), lightness: L, chroma }
    return Object.fromEntries(Object.entries(named).map(([name, value]) => [name, { type: 'value', value }]))
  },
})
