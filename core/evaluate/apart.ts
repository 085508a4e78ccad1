import type { MeshTables } from './tables'

/** Swaps that are tried for each part, in each of the rounds. */
const TRIES = 12, ROUNDS = 6

/** How bad it is for two touching parts to be this alike. */
const closeness = (a: number, b: number): number => (1 - Math.min(1, Math.abs(a - b))) ** 6

/**
 * Hands the same values out among the parts anew, so that touching parts differ. Parts swap their values as long as it
 * helps: a swap counts only if the closest of the pairs it touches gets no closer and their closeness shrinks in all, so
 * the outcome is never worse than what was given.
 */
export function apart(values: Float32Array, tables: MeshTables): Float32Array {
  const out = values.slice(), pairs = tables.touching?.().pairs, n = out.length
  if (!pairs?.length || n < 3) return out
  // (1) Rows of neighbors.
  const starts = new Uint32Array(n + 1)
  for (const p of pairs) starts[p + 1]!++
  for (let i = 0; i < n; i++) starts[i + 1]! += starts[i]!
  const neighbors = new Uint32Array(pairs.length), next = starts.slice(0, n)
  for (let i = 0; i < pairs.length; i += 2) {
    neighbors[next[pairs[i]!]!++] = pairs[i + 1]!
    neighbors[next[pairs[i + 1]!]!++] = pairs[i]!
  }
  // (2) Those in trouble first; partners by a fixed walk through the parts in order of their first values, so that the
  // outcome belongs to the draws and not to the order of the file.
  const order = Uint32Array.from(out.keys()).sort((a, b) => values[a]! - values[b]! || a - b), place = new Uint32Array(n)
  order.forEach((p, i) => { place[p] = i })
  let least = 0, cost = 0
  const around = (p: number, skip: number): void => {
    for (let k = starts[p]!; k < starts[p + 1]!; k++) {
      const q = neighbors[k]!
      if (q === skip) continue
      least = Math.min(least, Math.abs(out[p]! - out[q]!))
      cost += closeness(out[p]!, out[q]!)
    }
  }
  const judge = (p: number, q: number): [number, number] => {
    least = Infinity
    cost = 0
    around(p, -1)
    around(q, p)
    return [least, cost]
  }
  for (let round = 0; round < ROUNDS; round++) {
    let swapped = false
    for (const p of order) {
      if (starts[p] === starts[p + 1]) continue
      for (let t = 0; t < TRIES; t++) {
        const q = order[(place[p]! + Math.floor(n * ((t + 1) * 0.618033988749895 + round * 0.381966)) % n + 1) % n]!
        if (q === p || out[p] === out[q]) continue
        const [before, spent] = judge(p, q)
        const held = out[p]!
        out[p] = out[q]!
        out[q] = held
        const [after, now] = judge(p, q)
        if (after >= before && now < spent) swapped = true
        else {
          out[q] = out[p]!
          out[p] = held
        }
      }
    }
    if (!swapped) break
  }
  return out
}
