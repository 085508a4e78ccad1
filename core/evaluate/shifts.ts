/**
 * How far a picture's pixels are shifted, in pixels to the right and down: Roberts' R2 sequence ("The Unreasonable
 * Effectiveness of Quasirandom Sequences", 2018), so that any number of such pictures cover a pixel evenly.
 * @param number 0 is not shifted
 * @returns each from -0.5 to 0.5
 */
export function shiftOf(number: number): [number, number] {
  if (number === 0) return [0, 0]
  return [((0.5 + number * 0.7548776662466927) % 1) - 0.5, ((0.5 + number * 0.5698402909980532) % 1) - 0.5]
}

/**
 * How wide what a numbered picture shows of a pixel is, in pixels: the first stands for all of it, and the more there
 * are, the smaller is the share of each.
 */
export const widthOf = (number: number): number => 1 / Math.sqrt(number + 1)
