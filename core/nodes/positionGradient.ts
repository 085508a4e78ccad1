import { defineNode, UNIT_SHAPE } from './declare'

export default defineNode({
  kind: 'positionGradient',
  title: 'Position gradient',
  family: 'From the mesh',
  help: 'Rises from 0 to 1 along an axis of the whole mesh, of each object or of each part.',
  words: ['height', 'ramp', 'top', 'bottom', 'foot', 'linear', 'axis', 'fade'],
  inputs: {},
  params: {
    space: {
      type: 'choice', title: 'Across', default: 'mesh', help: 'Whose box the gradient runs through.',
      options: [{ value: 'mesh', title: 'The mesh' }, { value: 'object', title: 'Each object' }, { value: 'part', title: 'Each part' }],
    },
    axis: {
      type: 'choice', title: 'Axis', default: 'Y', help: 'The direction of the rise. Y is up.',
      options: [{ value: 'X', title: 'X' }, { value: 'Y', title: 'Y (up)' }, { value: 'Z', title: 'Z' }],
    },
    start: { type: 'number', title: 'Start', default: 0, ...UNIT_SHAPE, help: 'Where the rise begins, as a share of the box.' },
    end: { type: 'number', title: 'End', default: 1, ...UNIT_SHAPE, help: 'Where the rise is complete.' },
    softness: { type: 'number', title: 'Softness', default: 0, ...UNIT_SHAPE, help: '0 is a straight rise, 1 eases in and out.' },
    flip: { type: 'toggle', title: 'Flip', default: false, help: 'From 1 down to 0 instead.' },
  },
  outputs: { value: { type: 'value', title: 'Value' } },
  lower({ b, choice, number }) {
    const axis = choice('axis') as 'X' | 'Y' | 'Z', space = choice('space')
    const position = b.surface(({ X: 'x', Y: 'y', Z: 'z' } as const)[axis])
    const [min, size] = space === 'mesh'
      ? [b.mesh(`min${axis}`), b.mesh(`size${axis}`)]
      : space === 'object'
        ? [b.part(`objectMin${axis}`), b.part(`objectSize${axis}`)]
        : [b.part(`min${axis}`), b.part(`size${axis}`)]
    const share = b.div(b.sub(position, min), size)
    const straight = b.clamp01(b.div(b.sub(share, number('start')), b.sub(number('end'), number('start'))))
    const eased = b.op('smoothstep', [b.constant(0), b.constant(1), straight])
    const rise = b.mix(straight, eased, number('softness'))
    return { value: { type: 'value', value: b.mix(rise, b.sub(b.constant(1), rise), number('flip')) } }
  },
})
