import { fromOklabInGamut, toOklab } from '../program/color'
import { defineNode, UNIT_SHAPE } from './declare'

const driver = (what: string) => ({
  type: 'value' as const,
  title: `${what} by`,
  default: 0.5,
  shape: UNIT_SHAPE,
  help: `Drives the ${what.toLowerCase()}: 0.5 changes nothing, 0 and 1 go all the way.`,
})

export default defineNode({
  kind: 'varyColor',
  title: 'Vary color',
  family: 'Color',
  help: 'Shifts hue, chroma and lightness by three values, evenly to the eye (OKLCH), and stays inside the gamut.',
  words: ['hue shift', 'hsv', 'saturation', 'random color', 'variation', 'drift', 'oklch'],
  inputs: {
    color: { type: 'color', title: 'Color', default: [0.2, 0.35, 0.3], needed: true, help: 'The color to vary.' },
    hueBy: driver('Hue'),
    chromaBy: driver('Chroma'),
    lightnessBy: driver('Lightness'),
  },
  params: {
    hue: {
      type: 'number',
      title: 'Hue',
      default: 20,
      min: 0,
      max: 360,
      step: 1,
      unit: '°',
      help: 'The whole width of the shift: half to either side.',
    },
    chroma: {
      type: 'number',
      title: 'Chroma',
      default: 20,
      min: 0,
      max: 200,
      step: 1,
      unit: '%',
      help: 'The whole width of the change, as a share of the chroma.',
    },
    lightness: {
      type: 'number',
      title: 'Lightness',
      default: 10,
      min: 0,
      max: 100,
      step: 1,
      unit: '%',
      help: 'The whole width of the change, in points of OKLCH lightness.',
    },
  },
  outputs: { color: { type: 'color', title: 'Color' } },
  lower({ b, color, value, number }) {
    const [L, A, B] = toOklab(b, color('color'))
    const shift = (input: string, param: string, scale: number) =>
      b.mul(b.sub(value(input), b.constant(0.5)), b.mul(number(param), b.constant(scale)))
    const angle = shift('hueBy', 'hue', Math.PI / 180)
    const cos = b.op('cos', [angle])
    const sin = b.op('sin', [angle])
    const gain = b.max(b.constant(0), b.add(b.constant(1), shift('chromaBy', 'chroma', 0.01)))
    return {
      color: {
        type: 'color',
        value: fromOklabInGamut(b, [
          b.add(L, shift('lightnessBy', 'lightness', 0.01)),
          b.mul(gain, b.sub(b.mul(A, cos), b.mul(B, sin))),
          b.mul(gain, b.add(b.mul(A, sin), b.mul(B, cos))),
        ]),
      },
    }
  },
})
