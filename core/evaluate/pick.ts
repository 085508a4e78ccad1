import { colorDifference } from '../color/difference'
import { neighborsOf, swapAround } from './swaps'
import type { MeshTables } from './tables'

/** Partners that are tried for a part that is too like a neighbor, and rounds over all parts. */
const PARTNERS = 48
const ROUNDS = 8
/** Where shares are of the area, parts swap only with parts about as large. */
const ALIKE = 0.02

/**
 * Picks an entry of a palette for each part: `values` are ranks from 0 to 1, and the weights divide that range. Then
 * touching parts whose colors differ by less than `differ` (CIEDE2000) swap with others, which keeps the shares; a swap
 * counts only if it leaves fewer such pairs.
 * @param list weight, red, green, blue of each entry, linear
 * @returns the number of the entry
 */
export function pick(
  values: Float32Array,
  list: readonly number[],
  differ: number,
  by: 'count' | 'area',
  tables: MeshTables,
): Float32Array {
  const entries = Array.from({ length: list.length / 4 }, (_, i) => list.slice(i * 4, i * 4 + 4))
  const total = entries.reduce((s, e) => s + Math.max(0, e[0]!), 0)
  const n = values.length
  let sum = 0
  const ends = entries.map(e => (sum += Math.max(0, e[0]!)) / (total || 1))
  const last = ends.length - 1
  const out = Float32Array.from(values, x =>
    Math.min(
      last,
      ends.findIndex((end, i) => x < end || i === last),
    ),
  )
  const pairs = differ > 0 ? tables.touching?.().pairs : undefined
  if (!pairs?.length) return out
  const alike = entries.map(a => entries.map(b => colorDifference(a.slice(1), b.slice(1)) < differ))
  const neighbors = neighborsOf(pairs, n)
  const clashes = (p: number, skip: number): number =>
    neighbors[p]!.reduce((s, q) => s + Number(q !== skip && alike[out[p]!]![out[q]!]), 0)
  const area = (p: number) => tables.parts.parts[p]!.area
  swapAround(out, values, {
    rounds: ROUNDS,
    tries: PARTNERS,
    wants: p => clashes(p, -1) > 0,
    may: (p, q) => by === 'count' || Math.abs(area(p) - area(q)) <= ALIKE * Math.max(area(p), area(q)),
    judge: (p, q) => [clashes(p, -1) + clashes(q, p)],
    better: ([after], [before]) => after! < before!,
  })
  return out
}
