import type { Builder } from '../program/builder'
import type { Ref, Ref3 } from '../program/ops'
import { UNIT_SHAPE, type InputDeclaration, type LowerContext, type ParamDeclaration } from './declare'

/** Where a pattern sits and how large it is: the settings that all patterns share. */
export const PLACING = {
  size: {
    type: 'number',
    title: 'Size',
    default: 20,
    min: 0.01,
    max: 10000,
    step: 0.5,
    unit: 'cm',
    help: 'The width of the largest features. On UVs, 100 cm are one side of the tile.',
  },
  sits: {
    type: 'choice',
    title: 'Sits',
    default: 'space',
    help: 'What the pattern is laid in.',
    options: [
      { value: 'space', title: 'In space' },
      { value: 'part', title: 'In each part: shifted and turned by its key' },
      { value: 'uv', title: 'On the UVs' },
      { value: 'planar', title: 'Projected in one direction' },
      { value: 'threeWay', title: 'Projected from three sides, blended' },
    ],
  },
  plane: {
    type: 'choice',
    title: 'Projected',
    default: 'XY',
    help: 'The direction of the projection.',
    when: value => value('sits') === 'planar',
    options: [
      { value: 'XY', title: 'From the front, along Z' },
      { value: 'ZY', title: 'From the side, along X' },
      { value: 'XZ', title: 'From above, along Y' },
    ],
  },
  blending: {
    type: 'number',
    title: 'Blend',
    default: 0.5,
    ...UNIT_SHAPE,
    help: 'How softly the three sides pass into one another.',
    when: value => value('sits') === 'threeWay',
  },
  turn: {
    type: 'number',
    title: 'Turn',
    default: 0,
    min: -360,
    max: 360,
    step: 1,
    unit: '°',
    help: 'Turns the pattern around the vertical; a projected one in its plane.',
  },
  along: {
    type: 'choice',
    title: 'Stretched along',
    default: 'none',
    help: 'The direction in which features are longer.',
    options: [
      { value: 'none', title: 'Nothing' },
      { value: 'X', title: 'X' },
      { value: 'Y', title: 'Y (up)' },
      { value: 'Z', title: 'Z' },
    ],
  },
  stretch: {
    type: 'number',
    title: 'Stretch',
    default: 1,
    min: 0.05,
    max: 100,
    step: 0.1,
    help: 'How much longer features are along that direction.',
    when: value => value('along') !== 'none',
  },
} as const satisfies Record<string, ParamDeclaration>
/** An input of every pattern that moves its coordinates, and how far. */
export const BENDING = {
  input: {
    type: 'value',
    title: 'Bend by',
    default: 0.5,
    shape: UNIT_SHAPE,
    help: 'Moves the pattern where it is not 0.5. Another pattern bends it.',
  },
  param: {
    type: 'number',
    title: 'Bend',
    default: 20,
    min: 0,
    max: 10000,
    step: 0.5,
    unit: 'cm',
    help: 'How far the pattern is moved at 0 and 1.',
    when: (_, wired) => wired('bend'),
  },
} as const satisfies { input: InputDeclaration; param: ParamDeclaration }
export const SEED = {
  type: 'seed',
  title: 'Seed',
  default: 1,
  help: 'Another seed, another place in the pattern.',
} as const satisfies ParamDeclaration

/**
 * Ragged borders: coordinates waver by two octaves of gradient noise, three times as fine as the features. Clean ones
 * cost nothing.
 */
export const DETAIL = {
  borders: {
    type: 'choice',
    title: 'Borders',
    default: 'clean',
    help: 'Whether a finer pattern breaks the borders up.',
    options: [
      { value: 'clean', title: 'Clean' },
      { value: 'ragged', title: 'Ragged' },
    ],
  },
  detail: {
    type: 'number',
    title: 'Detail',
    default: 0.5,
    ...UNIT_SHAPE,
    help: 'How far the borders waver.',
    when: value => value('borders') === 'ragged',
  },
} as const satisfies Record<string, ParamDeclaration>
export function ragged({ b, number, choice }: LowerContext, p: Ref3): Ref3 {
  if (choice('borders') === 'clean') return p
  const far = b.mul(number('detail'), b.constant(0.5))
  const waver = (k: number): Ref =>
    b.op('fractal3', [
      ...p.map((y, i) => b.add(b.mul(y, b.constant(3)), b.constant(k * 17.3 + i * 5.1))),
      b.constant(2),
      b.constant(2),
      b.constant(0.5),
    ])
  return p.map((x, k) => b.add(x, b.mul(far, waver(k)))) as Ref3
}

/**
 * Streams of a seed's draws: three that move the lattice, three that move it for each part, one that turns it there.
 */
const LATTICE = 0
const OWN = 3
const TURN = 6

/** The two coordinates that a projection along the third keeps. */
export const PLANES = { XY: ['x', 'y'], ZY: ['z', 'y'], XZ: ['x', 'z'] } as const
type Plane = keyof typeof PLANES

/**
 * A projection along each axis, blended by how far the surface turns toward it. `make` gets the plane and its number.
 */
export function threeSides<const T extends readonly Ref[]>(
  { b, number }: LowerContext,
  make: (plane: Plane, k: number) => T,
): T {
  const exponent = b.mix(b.constant(40), b.constant(1.5), number('blending'))
  const weights = (['normalX', 'normalY', 'normalZ'] as const).map(n =>
    b.op('pow', [b.op('abs', [b.surface(n)]), exponent]),
  )
  const sum = weights.reduce((s, w) => b.add(s, w))
  const sides = (['ZY', 'XZ', 'XY'] as const).map(make)
  return sides[0]!.map((_, i) =>
    b.div(
      sides.map((side, k) => b.mul(side[i]!, weights[k]!)).reduce((s, x) => b.add(s, x)),
      sum,
    ),
  ) as unknown as T
}

/** A part's own draw by the pattern's seed, 0 to 1: the first three move the pattern there. */
export const ownDraw = ({ b, number }: LowerContext, k: number): Ref =>
  b.op('draw', [b.part('keyLow'), b.part('keyHigh'), number('seed'), b.constant(OWN + k)])

/** A pair of coordinates turned by an angle in radians. */
export function turned(b: Builder, p: Ref, q: Ref, angle: Ref): [Ref, Ref] {
  const cos = b.op('cos', [angle])
  const sin = b.op('sin', [angle])
  return [b.sub(b.mul(p, cos), b.mul(q, sin)), b.add(b.mul(p, sin), b.mul(q, cos))]
}

/**
 * Lays a pattern where its settings say.
 * @param make the pattern's values from coordinates, one unit to a feature; called three times where three projections
 * are blended
 */
export function laid<const T extends readonly Ref[]>(c: LowerContext, make: (p: Ref3) => T): T {
  const { b, number, choice } = c
  const sits = choice('sits')
  const turn = b.mul(number('turn'), b.constant(Math.PI / 180))
  if (sits === 'uv') return make(scaledAt(c, [...turned(b, b.surface('u'), b.surface('v'), turn), b.constant(0)]))
  /** With a third coordinate of its own for each of several sides, so that none repeats another. */
  const side = (plane: Plane, k = 0): T =>
    make(
      scaledAt(c, [...turned(b, b.surface(PLANES[plane][0]), b.surface(PLANES[plane][1]), turn), b.constant(k * 3.1)]),
    )
  if (sits === 'planar') return side(choice('plane') as Plane)
  if (sits === 'threeWay') return threeSides(c, side)
  const place: Ref3 = [b.surface('x'), b.surface('y'), b.surface('z')]
  if (sits === 'part') {
    const [x, y, z] = (['X', 'Y', 'Z'] as const).map((axis, k) => b.sub(place[k]!, b.part(`min${axis}`))) as Ref3
    const [a, d] = turned(b, x, z, b.add(turn, b.mul(ownDraw(c, TURN - OWN), b.constant(2 * Math.PI))))
    const p = scaledAt(c, [a, y, d])
    return make(p.map((q, k) => b.add(q, b.mul(b.constant(64), ownDraw(c, k)))) as Ref3)
  }
  const [x, y, z] = place
  const [a, d] = turned(b, x, z, turn)
  return make(scaledAt(c, [a, y, d]))
}

/**
 * Bent, scaled and stretched. The standard's noises have no seed: a seed moves the lattice by up to 512 cells, so that
 * an export can do the same.
 */
function scaledAt({ b, number, choice, value }: LowerContext, p: Ref3): Ref3 {
  const perMeter = b.div(b.constant(100), number('size'))
  const along = choice('along')
  const seed = number('seed')
  const shift = (stream: number): Ref =>
    b.mul(b.constant(512), b.op('draw', [b.constant(0), b.constant(0), seed, b.constant(stream)]))
  // The three directions are bent unlike, so that a pattern is moved and not only shifted along a diagonal.
  const bend = b.mul(b.mul(b.sub(value('bend'), b.constant(0.5)), b.constant(0.02)), number('bending'))
  return p.map((x, k) => {
    const scaled = b.mul(b.add(x, b.mul(bend, b.constant([1, -0.7, 0.8][k]!))), perMeter)
    return b.add(along === 'XYZ'[k] ? b.div(scaled, number('stretch')) : scaled, shift(LATTICE + k))
  }) as Ref3
}
