import type { Builder } from '../program/builder'
import type { Ref } from '../program/ops'
import { defineNode, UNIT_SHAPE, type ParamDeclaration } from './declare'
import { boxOf, SPACES } from './position'

const AXES = ['X', 'Y', 'Z'] as const
type Axis = (typeof AXES)[number]
type Asked = (name: string) => unknown

/** The settings of one rise. `suffix` names the axis where several have their own. */
const rising = (suffix: Axis | '', shown: (value: Asked) => boolean): Record<string, ParamDeclaration> => {
  const of = suffix && ` ${suffix}`
  const both = { min: -1e6, max: 1e6, step: 1, unit: 'mm' } as const
  const shares = (value: Asked) => shown(value) && value('unit') !== 'mm'
  const lengths = (value: Asked) => shown(value) && value('unit') === 'mm'
  return {
    [`start${suffix}`]: {
      type: 'number',
      title: `Start${of}`,
      default: 0,
      ...UNIT_SHAPE,
      help: 'Where the rise begins, as a share of the box.',
      when: shares,
    },
    [`end${suffix}`]: {
      type: 'number',
      title: `End${of}`,
      default: 1,
      ...UNIT_SHAPE,
      help: 'Where the rise is complete.',
      when: shares,
    },
    [`startMm${suffix}`]: {
      type: 'number',
      title: `Start${of}`,
      default: 0,
      ...both,
      help: 'Where the rise begins, from the lower side of the box.',
      when: lengths,
    },
    [`endMm${suffix}`]: {
      type: 'number',
      title: `End${of}`,
      default: 500,
      ...both,
      help: 'Where the rise is complete, from the lower side of the box.',
      when: lengths,
    },
    [`softness${suffix}`]: {
      type: 'number',
      title: `Softness${of}`,
      default: 0,
      ...UNIT_SHAPE,
      help: '0 is a straight rise, 1 eases in and out.',
      when: shown,
    },
    [`flip${suffix}`]: {
      type: 'toggle',
      title: `Flip${of}`,
      default: false,
      help: 'From 1 down to 0 instead.',
      when: shown,
    },
  }
}
const several = (value: Asked): boolean => value('axis') === 'several'
const single = (value: Asked): boolean => !several(value)

/** The way along a direction from the lower side of the box, and the box's length in that direction, in meters. */
function along(b: Builder, space: string, direction: Record<Axis, Ref>): [way: Ref, length: Ref] {
  const sum = (of: (axis: Axis) => Ref) => AXES.map(of).reduce((s, x) => b.add(s, x))
  const low = sum(axis => {
    const [min, size] = boxOf(b, space, axis)
    const d = direction[axis]
    return b.min(b.mul(d, min), b.mul(d, b.add(min, size)))
  })
  return [
    b.sub(
      sum(axis => b.mul(direction[axis], b.surface(axis.toLowerCase() as 'x'))),
      low,
    ),
    sum(axis => b.mul(b.op('abs', [direction[axis]]), boxOf(b, space, axis)[1])),
  ]
}

export default defineNode({
  kind: 'positionGradient',
  title: 'Position gradient',
  family: 'From the mesh',
  help: 'Rises from 0 to 1 along an axis, any direction, or several axes together: across the mesh, or each object, group or part.',
  words: ['height', 'ramp', 'top', 'bottom', 'foot', 'linear', 'axis', 'fade', 'direction'],
  inputs: {
    ragged: {
      type: 'value',
      title: 'Ragged by',
      default: 0.5,
      shape: UNIT_SHAPE,
      help: 'Moves the front where it is not 0.5. A noise makes it ragged.',
    },
  },
  params: {
    space: {
      type: 'choice',
      title: 'Across',
      default: 'mesh',
      help: 'Whose box the gradient runs through.',
      options: SPACES,
    },
    axis: {
      type: 'choice',
      title: 'Axis',
      default: 'Y',
      help: 'The direction of the rise. Y is up.',
      options: [
        { value: 'X', title: 'X' },
        { value: 'Y', title: 'Y (up)' },
        { value: 'Z', title: 'Z' },
        { value: 'any', title: 'Any direction' },
        { value: 'several', title: 'Several axes together' },
      ],
    },
    turn: {
      type: 'number',
      title: 'Turn',
      default: 0,
      min: -360,
      max: 360,
      step: 1,
      unit: '°',
      help: 'Around the vertical; 0 points along Z.',
      when: value => value('axis') === 'any',
    },
    tilt: {
      type: 'number',
      title: 'Tilt',
      default: 45,
      min: -90,
      max: 90,
      step: 1,
      unit: '°',
      help: 'Above the horizontal; 90 points straight up.',
      when: value => value('axis') === 'any',
    },
    unit: {
      type: 'choice',
      title: 'Measured in',
      default: 'share',
      help: 'What start and end mean.',
      options: [
        { value: 'share', title: 'Shares of the box' },
        { value: 'mm', title: 'Millimeters' },
      ],
    },
    ...rising('', single),
    ...Object.fromEntries(
      AXES.flatMap((axis): [string, ParamDeclaration][] => [
        [
          `share${axis}`,
          {
            type: 'number',
            title: `Share of ${axis}`,
            default: axis === 'Y' ? 1 : 0,
            ...UNIT_SHAPE,
            help: 'How much this axis counts; 0 leaves it out.',
            when: several,
          },
        ],
        ...Object.entries(rising(axis, value => several(value) && Number(value(`share${axis}`)) > 0)),
      ]),
    ),
    raggedness: {
      type: 'number',
      title: 'Raggedness',
      default: 0.2,
      ...UNIT_SHAPE,
      help: 'How far the front moves, as a share of the box.',
      when: (_, wired) => wired('ragged'),
    },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower({ b, choice, number, value }) {
    const space = choice('space')
    const lengths = choice('unit') === 'mm'
    const one = b.constant(1)
    const zero = b.constant(0)
    const rise = (suffix: string, way: Ref, length: Ref): Ref => {
      const moved = b.mul(b.sub(value('ragged'), b.constant(0.5)), number('raggedness'))
      const at = lengths
        ? b.add(b.mul(way, b.constant(1000)), b.mul(moved, b.mul(length, b.constant(1000))))
        : b.add(b.div(way, length), moved)
      const from = number(lengths ? `startMm${suffix}` : `start${suffix}`)
      const to = number(lengths ? `endMm${suffix}` : `end${suffix}`)
      const straight = b.clamp01(b.div(b.sub(at, from), b.sub(to, from)))
      const eased = b.op('smoothstep', [zero, one, straight])
      const up = b.mix(straight, eased, number(`softness${suffix}`))
      return b.mix(up, b.sub(one, up), number(`flip${suffix}`))
    }
    const onAxis = (axis: Axis): [Ref, Ref] => {
      const [min, size] = boxOf(b, space, axis)
      return [b.sub(b.surface(axis.toLowerCase() as 'x'), min), size]
    }
    const result = (ref: Ref) => ({ value: { type: 'value', value: ref } }) as const
    if (choice('axis') === 'several') {
      const total = AXES.map(axis => number(`share${axis}`)).reduce((s, x) => b.add(s, x))
      return result(
        b.div(
          AXES.map(axis => b.mul(rise(axis, ...onAxis(axis)), number(`share${axis}`))).reduce((s, x) => b.add(s, x)),
          total,
        ),
      )
    }
    if (choice('axis') !== 'any') return result(rise('', ...onAxis(choice('axis') as Axis)))
    const radians = (name: string) => b.mul(number(name), b.constant(Math.PI / 180))
    const flat = b.op('cos', [radians('tilt')])
    return result(
      rise(
        '',
        ...along(b, space, {
          X: b.mul(b.op('sin', [radians('turn')]), flat),
          Y: b.op('sin', [radians('tilt')]),
          Z: b.mul(b.op('cos', [radians('turn')]), flat),
        }),
      ),
    )
  },
})
