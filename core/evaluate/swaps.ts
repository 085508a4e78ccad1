/** The parts that each part touches, from the pairs of touching parts. */
export function neighborsOf(pairs: Uint32Array, parts: number): number[][] {
  const neighbors: number[][] = Array.from({ length: parts }, () => [])
  for (let i = 0; i < pairs.length; i += 2) {
    neighbors[pairs[i]!]!.push(pairs[i + 1]!)
    neighbors[pairs[i + 1]!]!.push(pairs[i]!)
  }
  return neighbors
}

/**
 * The parts in the order of what was drawn for them, so that what follows belongs to the draws and not to the order of
 * the file.
 */
const inOrderOf = (drawn: Float32Array): Uint32Array =>
  Uint32Array.from(drawn.keys()).sort((a, b) => drawn[a]! - drawn[b]! || a - b)

/** How parts swap what they were handed. */
export interface Swapping {
  rounds: number
  /** Partners that are tried for a part in each round. */
  tries: number
  /** Does the part still want another value? Asked before each try. */
  wants(p: number): boolean
  /** May these two swap, apart from whether it helps? */
  may(p: number, q: number): boolean
  /** How it stands around two parts; several numbers where it takes several to say so. */
  judge(p: number, q: number): readonly number[]
  better(after: readonly number[], before: readonly number[]): boolean
}

/**
 * Parts swap values, in place, as long as it helps. Partners come by a fixed walk through the parts in order of what
 * was first drawn for them, so that the outcome belongs to the draws and not to the order of the file.
 */
export function swapAround(
  out: Float32Array,
  drawn: Float32Array,
  { rounds, tries, wants, may, judge, better }: Swapping,
): void {
  const n = out.length
  const order = inOrderOf(drawn)
  const swap = (p: number, q: number): void => {
    const held = out[p]!
    out[p] = out[q]!
    out[q] = held
  }
  for (let round = 0; round < rounds; round++) {
    let swapped = false
    for (const [i, p] of order.entries()) {
      for (let t = 0; t < tries && wants(p); t++) {
        const q = order[(i + (Math.floor(n * ((t + 1) * 0.618033988749895 + round * 0.381966)) % n) + 1) % n]!
        if (q === p || out[p] === out[q] || !may(p, q)) continue
        const before = judge(p, q)
        swap(p, q)
        if (better(judge(p, q), before)) swapped = true
        else swap(p, q)
      }
    }
    if (!swapped) break
  }
}

/** Most swaps that are tried while the parts cool down. */
const MOST_SWAPS = 2_000_000

/** Steps of a linear congruential generator (Numerical Recipes), from 0 to 1. */
function rolls(seed: number): () => number {
  let state = seed >>> 0
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32
}

/**
 * Parts swap values at random, in place: at first also where that makes it worse, later hardly ever (simulated
 * annealing, Kirkpatrick et al. 1983). Which swaps are tried depends on what was drawn and not on the order of the
 * file.
 * @param cost what is bad around one part
 * @param shared what of it both parts of a pair count, where they touch
 * @param heat how much worse a swap may make it at the beginning and at the end
 * @param each swaps that are tried for each part
 */
export function coolDown(
  out: Float32Array,
  drawn: Float32Array,
  {
    may,
    cost,
    shared,
    heat,
    each,
  }: {
    may(p: number, q: number): boolean
    cost(p: number): number
    shared(p: number, q: number): number
    heat: readonly [from: number, to: number]
    each: number
  },
): void {
  const n = out.length
  const order = inOrderOf(drawn)
  const bits = new Uint32Array(drawn.slice().sort().buffer)
  const next = rolls(bits.reduce((seed, x) => (Math.imul(seed, 31) + x) >>> 0, n))
  const tries = Math.min(MOST_SWAPS, each * n)
  const [from, to] = heat
  for (let t = 0; t < tries; t++) {
    const p = order[Math.floor(next() * n)]!
    const q = order[Math.floor(next() * n)]!
    if (out[p] === out[q] || !may(p, q)) continue
    const before = cost(p) + cost(q) - shared(p, q)
    const held = out[p]!
    out[p] = out[q]!
    out[q] = held
    const worse = cost(p) + cost(q) - shared(p, q) - before
    const warmth = from * (to / from) ** (t / tries)
    if (worse <= 0 || next() < Math.exp(-worse / warmth)) continue
    out[q] = out[p]!
    out[p] = held
  }
}
