import type { Builder } from '../program/builder'
import type { Ref, Ref3 } from '../program/ops'
import { defineNode, UNIT_SHAPE } from './declare'
import { BENDING, DETAIL, laid, PLACING, ragged, SEED } from './placing'

/**
 * A kind of grunge: about 0 to 1 at each point, even enough that the amount cuts through all of it. Coordinates are one
 * unit to a feature.
 */
type Recipe = (b: Builder, p: Ref3) => Ref

const scaled = (b: Builder, p: Ref3, x: number, y = x, z = x): Ref3 =>
  [x, y, z].map((k, i) => b.mul(p[i]!, b.constant(k))) as Ref3
const moved = (b: Builder, p: Ref3, by: Ref3 | number): Ref3 =>
  p.map((x, i) => b.add(x, typeof by === 'number' ? b.constant(by * (i + 1)) : by[i]!)) as Ref3
const fractal = (b: Builder, p: Ref3, octaves: number, strength = 0.5): Ref =>
  b.op('fractal3', [...p, b.constant(octaves), b.constant(2), b.constant(strength)])
/** Gradient noise as 0 to 1. */
const even = (b: Builder, x: Ref): Ref => b.clamp01(b.add(b.mul(x, b.constant(0.7)), b.constant(0.5)))
const step = (b: Builder, from: number, to: number, x: Ref): Ref =>
  b.op('smoothstep', [b.constant(from), b.constant(to), x])
const flip = (b: Builder, x: Ref): Ref => b.sub(b.constant(1), x)
/** Thin lines where a noise passes through 0. */
const lines = (b: Builder, p: Ref3, width: number): Ref => flip(b, step(b, 0, width, b.op('abs', [b.op('noise3', p)])))
const warped = (b: Builder, p: Ref3, by: number): Ref3 =>
  moved(b, p, [11.3, 27.9, 43.1].map(k => b.mul(b.op('noise3', moved(b, p, k)), b.constant(by))) as Ref3)
/** The sine of a number of whole turns. Only what is left of one turn reaches the sine, which is exact nowhere else. */
const turns = (b: Builder, x: Ref): Ref => b.op('sin', [b.mul(b.op('fract', [x]), b.constant(2 * Math.PI))])
const middle = (b: Builder, p: Ref3): Ref => b.op('worley3', [...p, b.constant(1)])
const chance = (b: Builder, p: Ref3): Ref => b.op('worley3cell', [...p, b.constant(1)])

const KINDS: Record<string, { title: string; lower: Recipe }> = {
  blotches: { title: 'Blotches', lower: (b, p) => even(b, fractal(b, p, 3, 0.4)) },
  smudges: { title: 'Smudges', lower: (b, p) => even(b, fractal(b, warped(b, scaled(b, p, 1, 0.6, 1), 0.8), 5, 0.6)) },
  specks: {
    title: 'Specks',
    lower: (b, p) => b.mul(flip(b, step(b, 0.05, 0.35, middle(b, scaled(b, p, 4)))), chance(b, scaled(b, p, 4))),
  },
  pits: {
    title: 'Pits',
    lower: (b, p) =>
      b.max(
        flip(b, step(b, 0, 0.55, middle(b, p))),
        b.mul(flip(b, step(b, 0, 0.5, middle(b, scaled(b, p, 2.7)))), b.constant(0.8)),
      ),
  },
  scratches: {
    title: 'Scratches',
    lower: (b, p) => {
      const one = b.mul(
        lines(b, warped(b, scaled(b, p, 9, 0.4, 9), 0.05), 0.12),
        even(b, b.op('noise3', moved(b, p, 5))),
      )
      // The second set runs across, slanted.
      const slanted: Ref3 = [
        b.add(b.mul(p[0], b.constant(0.5)), b.mul(p[1], b.constant(0.3))),
        b.sub(b.mul(p[1], b.constant(7)), b.mul(p[0], b.constant(4))),
        b.mul(p[2], b.constant(7)),
      ]
      return b.max(one, b.mul(lines(b, moved(b, slanted, 9), 0.1), even(b, b.op('noise3', moved(b, p, 17)))))
    },
  },
  streaks: {
    title: 'Streaks that run down',
    lower: (b, p) =>
      b.mul(even(b, fractal(b, scaled(b, p, 3, 0.12, 3), 4, 0.6)), even(b, b.op('noise3', moved(b, p, 3)))),
  },
  drips: {
    title: 'Drips',
    lower: (b, p) => {
      const track = flip(
        b,
        step(
          b,
          0.05,
          0.3,
          middle(b, [b.mul(p[0], b.constant(2)), b.mul(p[1], b.constant(0.15)), b.mul(p[2], b.constant(2))]),
        ),
      )
      return b.clamp01(b.mul(track, b.add(b.constant(0.3), even(b, fractal(b, scaled(b, p, 1, 0.3, 1), 3)))))
    },
  },
  swirls: {
    title: 'Swirls',
    lower: (b, p) => {
      const bent = b.add(b.mul(fractal(b, p, 4), b.constant(1.4)), b.mul(p[1], b.constant(0.5)))
      return b.add(b.constant(0.5), b.mul(turns(b, bent), b.constant(0.5)))
    },
  },
  crackle: {
    title: 'Crackle',
    lower: (b, p) => {
      const w = warped(b, p, 0.25)
      const gap = b.sub(b.op('worley3second', [...w, b.constant(1)]), middle(b, w))
      return flip(b, step(b, 0, 0.22, gap))
    },
  },
  fibers: {
    title: 'Fibers',
    lower: (b, p) =>
      b.max(
        lines(b, warped(b, scaled(b, p, 8, 0.7, 8), 0.5), 0.2),
        lines(b, warped(b, scaled(b, moved(b, p, 31), 0.9, 7, 8), 0.5), 0.2),
      ),
  },
  weave: {
    title: 'Weave',
    lower: (b, p) => {
      const wave = (x: Ref, shift = 0) =>
        b.add(b.constant(0.5), b.mul(turns(b, b.add(b.mul(x, b.constant(2)), b.constant(shift))), b.constant(0.5)))
      const side = b.add(p[0], p[2])
      return b.max(b.mul(wave(side), wave(p[1])), b.mul(wave(side, 0.5), wave(p[1], 0.5)))
    },
  },
}
export const GRUNGE_KINDS = Object.keys(KINDS)

export default defineNode({
  kind: 'grunge',
  title: 'Grunge',
  family: 'Patterns',
  help: 'Marks of age and use: blotches, specks, scratches, streaks and more, computed at any size without pictures.',
  words: [
    'dirt',
    'wear',
    'scratches',
    'stains',
    'splatter',
    'rust',
    'smears',
    'drips',
    'leak',
    'cracks',
    'cloth',
    'mottled',
    ...GRUNGE_KINDS,
  ],
  onUvs: { param: 'sits', values: ['uv'], instead: 'space' },
  texels: 4,
  inputs: { bend: BENDING.input },
  params: {
    pattern: {
      type: 'choice',
      title: 'Kind',
      default: 'blotches',
      help: 'What the marks look like.',
      options: Object.entries(KINDS).map(([value, k]) => ({ value, title: k.title })),
    },
    ...PLACING,
    bending: BENDING.param,
    amount: { type: 'number', title: 'Amount', default: 0.5, ...UNIT_SHAPE, help: 'More marks, and larger ones.' },
    softness: { type: 'number', title: 'Softness', default: 0.3, ...UNIT_SHAPE, help: '0 cuts marks out sharply.' },
    ...DETAIL,
    seed: SEED,
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower(c) {
    const { b, number, choice } = c
    const [raw] = laid(c, p => [KINDS[choice('pattern')]!.lower(b, ragged(c, p))])
    // The cut runs from above every value at 0 to below every value at 1, whatever the softness.
    const half = b.mul(number('softness'), b.constant(0.5))
    const cut = b.mix(b.add(b.constant(1.001), half), b.sub(b.constant(-0.001), half), number('amount'))
    return { value: { type: 'value', value: b.op('smoothstep', [b.sub(cut, half), b.add(cut, half), raw]) } }
  },
})
