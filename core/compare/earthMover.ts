import { toLab, type Triple } from '../color/convert'
import type { Pulled } from '../color/palette'

/** What is left of a share below this is nothing: shares add up to 1 only nearly. */
const NOTHING = 1e-9

/**
 * How far one palette is from another: the least work that makes one of the other, where work is the share that is
 * moved times how far it goes in OKLab (Rubner, Tomasi and Guibas, "The Earth Mover's Distance as a Metric for Image
 * Retrieval", 2000). It is found exactly, by successive shortest paths.
 * @param a colors with shares that add up to 1; likewise `b`
 * @returns 0 where both are the same; black to white is 1
 */
export function paletteDistance(a: readonly Pulled[], b: readonly Pulled[]): number {
  const [from, to] = [a, b].map(list => list.map(p => toLab(p.color))) as [Triple[], Triple[]]
  const cost = from.map(p => to.map(q => Math.hypot(...p.map((x, k) => x - q[k]!))))
  const left = a.map(p => p.share)
  const open = b.map(p => p.share)
  const moved = a.map(() => b.map(() => 0))
  let work = 0
  for (;;) {
    const path = cheapestPath(cost, left, open, moved)
    if (!path) return work
    const { amount } = path
    for (const { i, j, back } of path.steps) {
      moved[i]![j]! += back ? -amount : amount
      work += (back ? -amount : amount) * cost[i]![j]!
    }
    left[path.first]! -= amount
    open[path.last]! -= amount
  }
}

interface Path {
  first: number
  last: number
  amount: number
  /** Moves from `i` of one palette to `j` of the other; or moves that are taken back. */
  steps: { i: number; j: number; back: boolean }[]
}

/** The cheapest way to move something more: by Bellman and Ford, over colors of the first palette and of the second. */
function cheapestPath(
  cost: readonly number[][],
  left: readonly number[],
  open: readonly number[],
  moved: readonly number[][],
): Path | null {
  const n = left.length
  const m = open.length
  const price = Array.from({ length: n + m }, (_, v) => (v < n && left[v]! > NOTHING ? 0 : Infinity))
  const before = new Array<number>(n + m).fill(-1)
  for (let round = 0, changed = true; changed && round < n + m; round++) {
    changed = false
    for (let i = 0; i < n; i++) {
      for (let j = 0; j < m; j++) {
        const c = cost[i]![j]!
        if (price[i]! + c < price[n + j]! - NOTHING) {
          price[n + j] = price[i]! + c
          before[n + j] = i
          changed = true
        }
        if (moved[i]![j]! > NOTHING && price[n + j]! - c < price[i]! - NOTHING) {
          price[i] = price[n + j]! - c
          before[i] = n + j
          changed = true
        }
      }
    }
  }
  let last = -1
  for (let j = 0; j < m; j++)
    if (open[j]! > NOTHING && price[n + j]! < Infinity && (last < 0 || price[n + j]! < price[n + last]!)) last = j
  if (last < 0) return null
  const steps: Path['steps'] = []
  let amount = open[last]!
  let at = n + last
  while (before[at]! >= 0) {
    const from = before[at]!
    const back = from >= n
    const [i, j] = back ? [at, from - n] : [from, at - n]
    steps.push({ i: i!, j: j!, back })
    if (back) amount = Math.min(amount, moved[i!]![j!]!)
    at = from
  }
  return { first: at, last, amount: Math.min(amount, left[at]!), steps }
}
