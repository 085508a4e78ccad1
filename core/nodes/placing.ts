import type { Ref, Ref3 } from '../program/ops'
import { UNIT_SHAPE, type InputDeclaration, type LowerContext, type ParamDeclaration } from './declare'

/** Where a pattern sits and how large it is: the settings that all patterns share. */
export const PLACING = {
  size: { type: 'number', title: 'Size', default: 20, min: 0.01, max: 10000, step: 0.5, unit: 'cm', help: 'The width of the largest features. On UVs, 100 cm are one side of the tile.' },
  sits: {
    type: 'choice', title: 'Sits', default: 'space', help: 'What the pattern is laid in.',
    options: [{ value: 'space', title: 'In space' }, { value: 'part', title: 'In each part: shifted and turned by its key' }, { value: 'uv', title: 'On the UVs' }],
  },
  along: {
    type: 'choice', title: 'Stretched along', default: 'none', help: 'The direction in which features are longer.',
    options: [{ value: 'none', title: 'Nothing' }, { value: 'X', title: 'X' }, { value: 'Y', title: 'Y (up)' }, { value: 'Z', title: 'Z' }],
  },
  stretch: { type: 'number', title: 'Stretch', default: 1, min: 0.05, max: 100, step: 0.1, help: 'How much longer features are along that direction.', when: value => value('along') !== 'none' },
} as const satisfies Record<string, ParamDeclaration>
/** An input of every pattern that moves its coordinates, and how far. */
export const BENDING = {
  input: { type: 'value', title: 'Bend by', default: 0.5, shape: UNIT_SHAPE, help: 'Moves the pattern where it is not 0.5. Another pattern bends it.' },
  param: { type: 'number', title: 'Bend', default: 20, min: 0, max: 10000, step: 0.5, unit: 'cm', help: 'How far the pattern is moved at 0 and 1.', when: (_, wired) => wired('bend') },
} as const satisfies { input: InputDeclaration, param: ParamDeclaration }
export const SEED = { type: 'seed', title: 'Seed', default: 1, help: 'Another seed, another place in the pattern.' } as const satisfies ParamDeclaration

/** Streams of a seed's draws: three that move the lattice, three that move it for each part, one that turns it there. */
const LATTICE = 0, OWN = 3, TURN = 6

/** Coordinates of a pattern, one unit to a feature. The standard's noises have no seed: a seed moves the lattice by up to 512 cells, so that an export can do the same. */
export function place({ b, number, choice, value }: LowerContext): Ref3 {
  const perMeter = b.div(b.constant(100), number('size')), sits = choice('sits'), along = choice('along'), seed = number('seed')
  const shift = (stream: number): Ref => b.mul(b.constant(512), b.op('draw', [b.constant(0), b.constant(0), seed, b.constant(stream)]))
  const own = (stream: number): Ref => b.op('draw', [b.part('keyLow'), b.part('keyHigh'), seed, b.constant(stream)])
  let p: Ref3 = sits === 'uv' ? [b.surface('u'), b.surface('v'), b.constant(0)] : [b.surface('x'), b.surface('y'), b.surface('z')]
  if (sits === 'part') {
    const [x, y, z] = (['X', 'Y', 'Z'] as const).map((axis, k) => b.sub(p[k]!, b.part(`min${axis}`))) as Ref3
    const angle = b.mul(own(TURN), b.constant(2 * Math.PI)), cos = b.op('cos', [angle]), sin = b.op('sin', [angle])
    p = [b.sub(b.mul(x, cos), b.mul(z, sin)), y, b.add(b.mul(x, sin), b.mul(z, cos))]
  }
  // The three directions are bent unlike, so that a pattern is moved and not only shifted along a diagonal.
  const bend = b.mul(b.mul(b.sub(value('bend'), b.constant(0.5)), b.constant(0.02)), number('bending'))
  p = p.map((x, k) => b.add(x, b.mul(bend, b.constant([1, -0.7, 0.8][k]!)))) as Ref3
  return p.map((x, k) => {
    const scaled = b.mul(x, perMeter), long = along === 'XYZ'[k] ? b.div(scaled, number('stretch')) : scaled, moved = b.add(long, shift(LATTICE + k))
    return sits === 'part' ? b.add(moved, b.mul(b.constant(64), own(OWN + k))) : moved
  }) as Ref3
}
