import type { Box } from './mesh'
import { cross, dot, unit, type Vector } from './vector'

/** Height by the longer side of a base: below it, a mesh is looked down at more, the flatter it is. */
const UPRIGHT = 0.6
/** How far above the front the first look is from, upright and on what has no height at all. */
const ABOVE = { upright: 0.16, flat: 0.71 }
/** The share of a picture that is filled. */
const FILLED = 0.94

/**
 * The direction, of length 1, from a box to who looks at it for the first time: from the front, a little right and
 * above, and farther above where the box is flat, so that a floor is not seen from its edge.
 */
export function firstSide({ min, max }: Box): Vector {
  const [wide, tall, deep] = max.map((x, k) => x - min[k]!)
  const flat = 1 - Math.min(1, tall! / (UPRIGHT * Math.max(wide!, deep!, 1e-9)))
  return unit([0.32, ABOVE.upright + (ABOVE.flat - ABOVE.upright) * flat, 1])
}

/**
 * How far from a box's middle, in meters, all its corners are in view.
 * @param side direction of length 1 from the box to who looks
 * @param angle the vertical opening in degrees
 * @param aspect width of the picture by its height
 */
export function distanceFor({ min, max }: Box, side: Vector, angle: number, aspect: number): number {
  const right = unit(cross([0, 1, 0], side))
  const up = cross(side, right)
  const tall = Math.tan((angle * Math.PI) / 360) * FILLED
  let distance = 1e-4
  for (let i = 0; i < 8; i++) {
    const corner = min.map((x, k) => (((i >> k) & 1 ? 1 : -1) * (max[k]! - x)) / 2) as Vector
    const away = Math.max(Math.abs(dot(corner, right)) / (tall * aspect), Math.abs(dot(corner, up)) / tall)
    distance = Math.max(distance, dot(corner, side) + away)
  }
  return distance
}
