/**
 * Some of the points of a mesh (`from` to `to`), and rays `first` to `last` of the sequence that each of them casts.
 */
export interface Round {
  from: number
  to: number
  first: number
  last: number
}

/** Rays for the first rough picture; every further round casts as many as all before it. */
export const FIRST_RAYS = 8
/**
 * Points per call: some hundredths of a second of rays, so that stopping, progress and the last thread need not wait.
 */
export const CHUNK = 512

/** Rounds of rays: 8, 8, 16, 32, … up to `rays`. */
export function* rounds(rays: number): Generator<Pick<Round, 'first' | 'last'>> {
  for (let first = 0, last = Math.min(FIRST_RAYS, rays); first < rays; first = last, last = Math.min(rays, last * 2))
    yield { first, last }
}
