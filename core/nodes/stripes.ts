import { defineNode, UNIT_SHAPE } from './declare'
import { ownDraw, turned } from './placing'

const AXES = { X: 'x', Y: 'y', Z: 'z', U: 'u', V: 'v' } as const
const NEXT = { X: 'Y', Y: 'Z', Z: 'X', U: 'V', V: 'U' } as const

export default defineNode({
  kind: 'stripes',
  title: 'Stripes',
  family: 'Patterns',
  help: 'Bands at even distances across one direction.',
  words: ['bands', 'lines', 'rings', 'layers', 'strata', 'planks', 'grooves'],
  onUvs: { param: 'across', values: ['U', 'V'], instead: 'Y' },
  inputs: {
    bend: {
      type: 'value',
      title: 'Bend by',
      default: 0,
      shape: UNIT_SHAPE,
      help: 'Moves the bands along: 1 is one whole distance. A noise makes them waver.',
    },
  },
  params: {
    across: {
      type: 'choice',
      title: 'Across',
      default: 'Y',
      help: 'The direction in which bands follow one another.',
      options: Object.keys(AXES).map(value => ({ value, title: value === 'Y' ? 'Y (up)' : value })),
    },
    turn: {
      type: 'number',
      title: 'Turn',
      default: 0,
      min: -360,
      max: 360,
      step: 1,
      unit: '°',
      help: 'Tilts the bands toward the next direction: X toward Y, Y toward Z, Z toward X, U toward V.',
    },
    size: {
      type: 'number',
      title: 'Distance',
      default: 20,
      min: 0.01,
      max: 10000,
      step: 0.5,
      unit: 'cm',
      help: 'From one band to the next. On UVs, 100 cm are one side of the tile.',
    },
    share: {
      type: 'number',
      title: 'Width',
      default: 0.5,
      ...UNIT_SHAPE,
      help: 'How much of the distance a band takes.',
    },
    softness: { type: 'number', title: 'Softness', default: 0.1, ...UNIT_SHAPE, help: '0 is a hard edge.' },
    shift: {
      type: 'number',
      title: 'Shift',
      default: 0,
      ...UNIT_SHAPE,
      help: 'Moves all bands, as a share of the distance.',
    },
    own: {
      type: 'choice',
      title: 'Begins',
      default: 'space',
      help: 'Whether the bands run on from part to part.',
      options: [
        { value: 'space', title: 'Once for all' },
        { value: 'part', title: 'In each part: shifted by its key' },
      ],
    },
    seed: { type: 'seed', title: 'Seed', default: 1, help: 'Another seed, another value for each band.' },
  },
  outputs: { value: { type: 'value', title: 'Value' }, each: { type: 'value', title: 'Per band' } },
  lower(c) {
    const { b, number, choice, value } = c
    const axis = choice('across') as keyof typeof AXES
    const [along] = turned(
      b,
      b.surface(AXES[axis]),
      b.surface(AXES[NEXT[axis]]),
      b.mul(number('turn'), b.constant(Math.PI / 180)),
    )
    const even = b.mul(along, b.div(b.constant(100), number('size')))
    const x = choice('own') === 'part' ? b.add(even, b.mul(ownDraw(c, 0), b.constant(64))) : even
    const t = b.add(x, b.add(value('bend'), number('shift')))
    const from = b.op('abs', [b.mul(b.sub(b.op('fract', [t]), b.constant(0.5)), b.constant(2))])
    // Softness eases the edge inside the distance: a band of width 1 has no edge, one of width 0 is not there.
    const share = number('share')
    const half = b.mul(number('softness'), b.min(share, b.sub(b.constant(1), share)))
    return {
      value: {
        type: 'value',
        value: b.sub(b.constant(1), b.op('smoothstep', [b.sub(share, half), b.add(share, half), from])),
      },
      each: { type: 'value', value: b.op('cell3', [t, number('seed'), b.constant(0)]) },
    }
  },
})
