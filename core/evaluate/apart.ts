import { neighborsOf, swapAround } from './swaps'
import type { MeshTables } from './tables'

/** Swaps that are tried for each part, in each of the rounds. */
const TRIES = 12
const ROUNDS = 6

/** How bad it is for two touching parts to be this alike. */
const closeness = (a: number, b: number): number => (1 - Math.min(1, Math.abs(a - b))) ** 6

/**
 * Hands the same values out among the parts anew, so that touching parts differ. Parts swap their values as long as it
 * helps: a swap counts only if the closest of the pairs it touches gets no closer and their closeness shrinks in all, so
 * the outcome is never worse than what was given.
 */
export function apart(values: Float32Array, tables: MeshTables): Float32Array {
  const out = values.slice()
  const pairs = tables.touching?.().pairs
  const n = out.length
  if (!pairs?.length || n < 3) return out
  const neighbors = neighborsOf(pairs, n)
  swapAround(out, values, {
    rounds: ROUNDS,
    tries: TRIES,
    wants: p => neighbors[p]!.length > 0,
    may: () => true,
    judge(p, q) {
      let least = Infinity
      let cost = 0
      const around = (a: number, skip: number): void => {
        for (const b of neighbors[a]!) {
          if (b === skip) continue
          least = Math.min(least, Math.abs(out[a]! - out[b]!))
          cost += closeness(out[a]!, out[b]!)
        }
      }
      around(p, -1)
      around(q, p)
      return [least, cost]
    },
    better: ([least, cost], [before, spent]) => least! >= before! && cost! < spent!,
  })
  return out
}
