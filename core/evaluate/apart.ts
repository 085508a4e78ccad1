import { coolDown, neighborsOf, swapAround } from './swaps'
import type { MeshTables } from './tables'

/** Swaps that are tried for each part, in each of the rounds. */
const TRIES = 12
const ROUNDS = 6

/** Closeness too much that a swap may make at first, and in the end. */
const HEAT = [0.3, 0.004] as const
/** Swaps for each part. */
const SWAPS = 200

/** How bad it is for two touching parts to be this alike. */
function closeness(a: number, b: number): number {
  const near = 1 - Math.min(1, Math.abs(a - b))
  // The sixth power; the operator takes several times as long.
  const square = near * near
  return square * square * square
}

/**
 * Hands the same values out among the parts anew, so that touching parts differ. Parts swap their values as long as it
 * helps: a swap counts only if the closest of the pairs it touches gets no closer and their closeness shrinks in all,
 * so the outcome is never worse than what was given.
 */
export function apart(values: Float32Array, tables: MeshTables): Float32Array {
  const out = values.slice()
  const pairs = tables.touching?.().pairs
  const n = out.length
  if (!pairs?.length || n < 3) return out
  const neighbors = neighborsOf(pairs, n)
  const costOf = (p: number): number => {
    let sum = 0
    for (const q of neighbors[p]!) sum += closeness(out[p]!, out[q]!)
    return sum
  }
  /** The closest pair, and the closeness of all. */
  const all = (): [least: number, cost: number] => {
    let least = Infinity
    let cost = 0
    for (let i = 0; i < pairs.length; i += 2) {
      const gap = Math.abs(out[pairs[i]!]! - out[pairs[i + 1]!]!)
      least = Math.min(least, gap)
      cost += closeness(gap, 0)
    }
    return [least, cost]
  }
  const settle = (): void =>
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
  settle()
  const [least, cost] = all()
  const quick = out.slice()
  const touch = (p: number, q: number): number => (neighbors[p]!.includes(q) ? closeness(out[p]!, out[q]!) : 0)
  coolDown(out, values, { may: () => true, cost: costOf, shared: touch, heat: HEAT, each: SWAPS })
  settle()
  const [closest, spent] = all()
  return closest >= least && spent < cost ? out : quick
}
