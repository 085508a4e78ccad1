/** The parts that each part touches, from the pairs of touching parts. */
export function neighborsOf(pairs: Uint32Array, parts: number): number[][] {
  const neighbors: number[][] = Array.from({ length: parts }, () => [])
  for (let i = 0; i < pairs.length; i += 2) {
    neighbors[pairs[i]!]!.push(pairs[i + 1]!)
    neighbors[pairs[i + 1]!]!.push(pairs[i]!)
  }
  return neighbors
}

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
 * Parts swap values, in place, as long as it helps. Partners come by a fixed walk through the parts in order of what was
 * first drawn for them, so that the outcome belongs to the draws and not to the order of the file.
 */
export function swapAround(
  out: Float32Array,
  drawn: Float32Array,
  { rounds, tries, wants, may, judge, better }: Swapping,
): void {
  const n = out.length
  const order = Uint32Array.from(out.keys()).sort((a, b) => drawn[a]! - drawn[b]! || a - b)
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
