import type { Ref, Ref3 } from '../program/ops'
import { defineNode, type ParamDeclaration } from './declare'

/** `of` names the shapes that have the length. */
const centimeters = (
  title: string,
  value: number,
  help: string,
  min = -1e5,
  of?: readonly string[],
): ParamDeclaration => ({
  type: 'number',
  title,
  default: value,
  min,
  max: 1e5,
  step: 1,
  unit: 'cm',
  help,
  ...(of && { when: values => of.includes(String(values('shape'))) }),
})
const NOT_BELOW = ['ball', 'box', 'capsule', 'ring']

export default defineNode({
  kind: 'zone',
  title: 'Zone',
  family: 'From the mesh',
  help: 'A shape placed in space: 1 inside, fading to 0 around it. Combine joins several.',
  words: ['sphere', 'ball', 'box', 'region', 'area', 'falloff', 'volume', 'local', 'spot', 'half-space', 'ring'],
  inputs: {},
  params: {
    shape: {
      type: 'choice',
      title: 'Shape',
      default: 'ball',
      help: 'What is placed.',
      options: [
        { value: 'ball', title: 'Ball' },
        { value: 'box', title: 'Box' },
        { value: 'capsule', title: 'Capsule (upright)' },
        { value: 'below', title: 'All below' },
        { value: 'ring', title: 'Ring (lying)' },
      ],
    },
    x: centimeters('X', 0, 'Its middle.', -1e5, NOT_BELOW),
    y: centimeters('Y', 0, 'Its middle; for All below, the height.'),
    z: centimeters('Z', 0, 'Its middle.', -1e5, NOT_BELOW),
    radius: centimeters(
      'Radius',
      50,
      'Of the ball, the capsule or the ring; half the width of the box.',
      0.01,
      NOT_BELOW,
    ),
    height: centimeters('Half height', 50, "Of the box, or from the middle to the ends of the capsule's axis.", 0, [
      'box',
      'capsule',
    ]),
    depth: centimeters('Half depth', 50, 'Of the box.', 0.01, ['box']),
    thickness: centimeters('Thickness', 10, 'Half the thickness of the ring.', 0.01, ['ring']),
    falloff: centimeters('Falloff', 20, 'How far outside it fades to 0.', 0),
  },
  outputs: { value: { type: 'value', title: 'Inside' } },
  lower({ b, number, choice }) {
    const meters = (name: string): Ref => b.mul(number(name), b.constant(0.01))
    const zero = b.constant(0)
    const [x, y, z] = (['x', 'y', 'z'] as const).map(axis => b.sub(b.surface(axis), meters(axis))) as Ref3
    const length = (...v: Ref[]): Ref => b.op('sqrt', [v.map(c => b.mul(c, c)).reduce((s, c) => b.add(s, c))])
    const abs = (c: Ref) => b.op('abs', [c])
    const beyond = (c: Ref, size: Ref) => b.max(zero, b.sub(abs(c), size))
    const away: Record<string, () => Ref> = {
      ball: () => b.sub(length(x, y, z), meters('radius')),
      box: () => length(beyond(x, meters('radius')), beyond(y, meters('height')), beyond(z, meters('depth'))),
      capsule: () => b.sub(length(x, beyond(y, meters('height')), z), meters('radius')),
      below: () => y,
      ring: () => b.sub(length(b.sub(length(x, z), meters('radius')), y), meters('thickness')),
    }
    // A step at the far edge where there is no falloff: what touches the shape is inside.
    const far = b.max(meters('falloff'), b.constant(1e-6))
    return {
      value: { type: 'value', value: b.sub(b.constant(1), b.op('smoothstep', [zero, far, away[choice('shape')]!()])) },
    }
  },
})
