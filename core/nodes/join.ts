import { fromOklabInGamut } from '../program/color'
import { defineNode, UNIT_SHAPE } from './declare'

/** The chroma of the strongest color inside Rec. 709, rounded up. */
const STRONGEST = 0.33

const part = (title: string, help: string) => ({ type: 'value' as const, title, default: 0.5, shape: UNIT_SHAPE, help })

export default defineNode({
  kind: 'join',
  title: 'Join',
  family: 'Color',
  help: 'Makes a color of three values: red, green and blue in linear light, or lightness, chroma and hue (OKLCH), held inside the gamut.',
  words: ['channels', 'components', 'rgb', 'lch', 'hsl', 'make color'],
  inputs: {
    first: part('First', 'Red, or lightness.'),
    second: part('Second', 'Green, or chroma: 1 is as strong as a color can be.'),
    third: part('Third', 'Blue, or hue: 0 to 1 is once around.'),
  },
  params: {
    as: {
      type: 'choice',
      title: 'As',
      default: 'rgb',
      help: 'What the three values are.',
      options: [
        { value: 'rgb', title: 'Red, green, blue' },
        { value: 'lch', title: 'Lightness, chroma, hue' },
      ],
    },
  },
  outputs: { color: { type: 'color', title: 'Color' } },
  lower({ b, value, choice }) {
    const [x, y, z] = [value('first'), value('second'), value('third')] as const
    if (choice('as') === 'rgb')
      return { color: { type: 'color', value: [x, y, z].map(c => b.clamp01(c)) as [number, number, number] } }
    const turn = b.mul(z, b.constant(2 * Math.PI))
    const chroma = b.mul(b.max(y, b.constant(0)), b.constant(STRONGEST))
    return {
      color: {
        type: 'color',
        value: fromOklabInGamut(b, [x, b.mul(chroma, b.op('cos', [turn])), b.mul(chroma, b.op('sin', [turn]))]),
      },
    }
  },
})
