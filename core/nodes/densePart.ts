import type { Ref } from '../program/ops'
import type { LowerContext, ParamDeclaration } from './declare'

/** The level of parts that only the dense mesh has. */
export const DENSE_PART = 'densePart'
export const DENSE_PART_OPTION = { value: DENSE_PART, title: 'Part of the dense mesh' }

/** Names parts of the dense mesh: numbers that were taken from it, texel by texel. */
export const DENSE_PARTS = {
  type: 'picture',
  title: 'Its parts',
  default: '',
  help: 'A surface map that tells the parts of the dense mesh apart: "Parts" or "Groups" of the Detail page.',
  when: value => value('level') === DENSE_PART,
} as const satisfies ParamDeclaration

/** Such numbers have 24 bits behind the point: as many whole numbers as a 32-bit float tells apart. */
const NUMBERS = 2 ** 24
const READING = { linear: true, across: 'edge', down: 'edge', nearest: true, exact: true } as const

/**
 * A draw for each part of the dense mesh, 0 to 1: the hash of the cell that its number and a seed name, as the
 * MaterialX standard hashes cells (`cellnoise3d`), so that it is the same wherever the surface is evaluated.
 */
export function drawOfDensePart({ b, choice }: LowerContext, seed: Ref, stream: Ref): Ref {
  const own = b.picture(choice('parts'), 0, READING, b.surface('u'), b.surface('v'))
  // One hash: a hash that is hashed again tells the last bits of a division, in which graphics cards differ.
  return b.op('cell3', [b.mul(own, b.constant(NUMBERS)), seed, stream])
}
