import type { Texels } from '../kernels/texels'

/** Room that {@link dilate} needs for its rings, in bytes. */
export const ringRoom = (width: number, height: number): number => (width + 32) * (height + 2)

/**
 * Grows the covered texels outward, a ring at a time: an empty texel takes the mean of its covered neighbors (of
 * eight). So filtering across an island's border meets the island's own color.
 * @param columns address of the first of `count` columns, `apart` bytes from one to the next
 * @param covered address of a byte for each texel, 1 where it has a value
 * @param ring address of {@link ringRoom}
 * @param rings at most 254
 */
export function dilate(
  texels: Texels,
  columns: number,
  apart: number,
  count: number,
  covered: number,
  ring: number,
  width: number,
  height: number,
  rings: number,
): void {
  if (rings)
    texels.timed(run =>
      run.grow(columns, apart, count, ring, width, height, run.rings(covered, ring, width, height, rings)),
    )
}
