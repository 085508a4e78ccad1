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

/** Of the 24 bits of such a number, how many go into each half. */
const HALF = 2 ** 12
/** Different draws that a hash is turned into before it is hashed again. */
const STEPS = 2 ** 20
const READING = { linear: true, across: 'edge', down: 'edge', nearest: true } as const

/**
 * A draw for each part of the dense mesh, 0 to 1: the hash of the cell that its number and a seed name, as the
 * MaterialX standard hashes cells (`cellnoise3d`), so that it is the same wherever the surface is evaluated.
 */
export function drawOfDensePart({ b, choice }: LowerContext, seed: Ref, stream: Ref): Ref {
  const own = b.picture(choice('parts'), 0, READING, b.surface('u'), b.surface('v'))
  const scaled = b.mul(own, b.constant(HALF))
  const high = b.op('floor', [scaled])
  const low = b.op('floor', [b.mul(b.sub(scaled, high), b.constant(HALF))])
  const first = b.op('cell3', [low, high, seed])
  return b.op('cell3', [b.mul(first, b.constant(STEPS)), stream, b.constant(0)])
}
