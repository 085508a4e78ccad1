/** Vectors of three numbers, for code that is not hot enough to write its components out. */
export type Vector = [number, number, number]
export const minus = (a: Vector, b: Vector): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
export const scaled = (a: Vector, s: number): Vector => [a[0] * s, a[1] * s, a[2] * s]
export const dot = (a: Vector, b: Vector): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
export const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]
/** Of length 1; nothing stays nothing. */
export const unit = (a: Vector): Vector => scaled(a, 1 / (Math.hypot(...a) || 1))
/** a + (b − a) t */
export const mixed = (a: Vector, b: Vector, t: number): Vector => [
  a[0] + (b[0] - a[0]) * t,
  a[1] + (b[1] - a[1]) * t,
  a[2] + (b[2] - a[2]) * t,
]

/** A vector, turned about the vertical by degrees. */
export function turnedAround([x, y, z]: Vector, degrees: number): Vector {
  const [sin, cos] = [Math.sin((degrees * Math.PI) / 180), Math.cos((degrees * Math.PI) / 180)]
  return [x * cos + z * sin, y, z * cos - x * sin]
}
