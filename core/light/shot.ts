import type { Painted } from '../evaluate/painter'
import type { Vector } from '../mesh/vector'

/** A camera with perspective. Its axes have length 1; it looks along the negative of `back`. */
export interface Lens {
  eye: Vector
  right: Vector
  up: Vector
  back: Vector
  /** Half the width and half the height of what is seen at a distance of 1. */
  wide: number
  tall: number
}

/** Channels of a look at every pixel of a picture, row by row from below, and how they are seen. */
export interface Shot {
  painted: Partial<Painted>
  width: number
  height: number
  lens: Lens
  /**
   * Which of several pictures with shifted pixels this is, and how far, in shares of the picture's half width and
   * height.
   */
  sample: number
  shift: [number, number]
  /** Whether the look says by a picture which way the surface faces: then it may face away where it is seen. */
  bends: boolean
}

/** A place in the camera's own axes, in meters. */
export type Place = Float64Array

/**
 * The place that is seen at a pixel (of which 0.5, 0.5 is the middle of the first), so far away along the camera's
 * axis.
 */
export function placeAt({ width, height, lens, shift }: Shot, x: number, y: number, depth: number, into: Place): void {
  into[0] = ((x / width) * 2 - 1 - shift[0]) * lens.wide * depth
  into[1] = ((y / height) * 2 - 1 - shift[1]) * lens.tall * depth
  into[2] = -depth
}

/** A direction of the world in the camera's own axes. */
export function toCamera({ right, up, back }: Lens, x: number, y: number, z: number, into: Float64Array): void {
  into[0] = right[0] * x + right[1] * y + right[2] * z
  into[1] = up[0] * x + up[1] * y + up[2] * z
  into[2] = back[0] * x + back[1] * y + back[2] * z
}

/** The way back. */
export function toWorld(
  { right, up, back }: Lens,
  [x, y, z]: ArrayLike<number> & Iterable<number>,
  into: Float64Array,
) {
  for (let k = 0; k < 3; k++) into[k] = right[k]! * x! + up[k]! * y! + back[k]! * z!
}

export function normalize(v: Float64Array): void {
  const length = Math.sqrt(v[0]! * v[0]! + v[1]! * v[1]! + v[2]! * v[2]!) || 1
  v[0]! /= length
  v[1]! /= length
  v[2]! /= length
}
export const dot3 = (a: ArrayLike<number>, b: ArrayLike<number>): number =>
  a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!
export function cross3(a: ArrayLike<number>, b: ArrayLike<number>, into: Float64Array): void {
  const x = a[1]! * b[2]! - a[2]! * b[1]!
  const y = a[2]! * b[0]! - a[0]! * b[2]!
  into[2] = a[0]! * b[1]! - a[1]! * b[0]!
  into[0] = x
  into[1] = y
}

export const clamp = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x))
