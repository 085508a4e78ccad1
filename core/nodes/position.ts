import type { Builder } from '../program/builder'
import type { Ref } from '../program/ops'
import { defineNode } from './declare'

/** Lower corner and size of the box that a space means, along an axis. */
export function boxOf(b: Builder, space: string, axis: 'X' | 'Y' | 'Z'): [min: Ref, size: Ref] {
  if (space === 'object' || space === 'group') return [b.part(`${space}Min${axis}`), b.part(`${space}Size${axis}`)]
  return space === 'part'
    ? [b.part(`min${axis}`), b.part(`size${axis}`)]
    : [b.mesh(`min${axis}`), b.mesh(`size${axis}`)]
}
export const SPACES = [
  { value: 'mesh', title: 'The mesh' },
  { value: 'object', title: 'Each object' },
  { value: 'group', title: 'Each group' },
  { value: 'part', title: 'Each part' },
]

export default defineNode({
  kind: 'position',
  title: 'Position',
  family: 'From the mesh',
  help: 'Where a point is in the box of the mesh, its object, group or part: from 0 to 1 along each side, or in centimeters from the lower corner.',
  words: ['coordinates', 'location', 'place', 'xyz', 'point'],
  inputs: {},
  params: {
    space: {
      type: 'choice',
      title: 'In the box of',
      default: 'mesh',
      help: 'Whose box is measured in.',
      options: SPACES,
    },
    unit: {
      type: 'choice',
      title: 'As',
      default: 'share',
      help: 'What the numbers mean.',
      options: [
        { value: 'share', title: 'Shares of the box, 0 to 1' },
        { value: 'cm', title: 'Centimeters' },
      ],
    },
  },
  outputs: { x: { type: 'value', title: 'X' }, y: { type: 'value', title: 'Y' }, z: { type: 'value', title: 'Z' } },
  lower({ b, choice }) {
    return Object.fromEntries(
      (['x', 'y', 'z'] as const).map(name => {
        const [min, size] = boxOf(b, choice('space'), name.toUpperCase() as 'X')
        const way = b.sub(b.surface(name), min)
        return [
          name,
          { type: 'value', value: choice('unit') === 'cm' ? b.mul(way, b.constant(100)) : b.div(way, size) },
        ]
      }),
    )
  },
})
