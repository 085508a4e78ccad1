import { defineNode, UNIT_SHAPE } from './declare'
import { boxOf, SPACES } from './position'

export default defineNode({
  kind: 'positionGradient',
  title: 'Position gradient',
  family: 'From the mesh',
  help: 'Rises from 0 to 1 along an axis of the whole mesh, of each object, group or part.',
  words: ['height', 'ramp', 'top', 'bottom', 'foot', 'linear', 'axis', 'fade'],
  inputs: {
    ragged: { type: 'value', title: 'Ragged by', default: 0.5, shape: UNIT_SHAPE, help: 'Moves the front where it is not 0.5. A noise makes it ragged.' },
  },
  params: {
    space: {
      type: 'choice', title: 'Across', default: 'mesh', help: 'Whose box the gradient runs through.',
      options: SPACES,
    },
    axis: {
      type: 'choice', title: 'Axis', default: 'Y', help: 'The direction of the rise. Y is up.',
      options: [{ value: 'X', title: 'X' }, { value: 'Y', title: 'Y (up)' }, { value: 'Z', title: 'Z' }],
    },
    start: { type: 'number', title: 'Start', default: 0, ...UNIT_SHAPE, help: 'Where the rise begins, as a share of the box.' },
    end: { type: 'number', title: 'End', default: 1, ...UNIT_SHAPE, help: 'Where the rise is complete.' },
    softness: { type: 'number', title: 'Softness', default: 0, ...UNIT_SHAPE, help: '0 is a straight rise, 1 eases in and out.' },
    raggedness: { type: 'number', title: 'Raggedness', default: 0.2, ...UNIT_SHAPE, help: 'How far the front moves, as a share of the box.', when: (_, wired) => wired('ragged') },
    flip: { type: 'toggle', title: 'Flip', default: false, help: 'From 1 down to 0 instead.' },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower({ b, choice, number, value }) {
    const axis = choice('axis') as 'X' | 'Y' | 'Z', space = choice('space')
    const position = b.surface(({ X: 'x', Y: 'y', Z: 'z' } as const)[axis])
    const [min, size] = boxOf(b, space, axis)
    const share = b.add(b.div(b.sub(position, min), size), b.mul(b.sub(value('ragged'), b.constant(0.5)), number('raggedness')))
    const straight = b.clamp01(b.div(b.sub(share, number('start')), b.sub(number('end'), number('start'))))
    const eased = b.op('smoothstep', [b.constant(0), b.constant(1), straight])
    const rise = b.mix(straight, eased, number('softness'))
    return { value: { type: 'value', value: b.mix(rise, b.sub(b.constant(1), rise), number('flip')) } }
  },
})
