import { colorDifference } from '../color/difference'
import { coolDown, neighborsOf, swapAround } from './swaps'
import type { MeshTables } from './tables'

/** Partners that are tried for a part that is too like a neighbor, and rounds over all parts. */
const PARTNERS = 48
const ROUNDS = 8
/** Pairs too many that a swap may make at first, and in the end. */
const HEAT = [0.5, 0.1] as const
/** Swaps for each part: measured on the kiosk roof, three times as many part 3 pairs more of 80. */
const SWAPS = 400
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
  const alike = alikeEntries(list, differ)
  const neighbors = neighborsOf(pairs, n)
  const clashes = (p: number, skip: number): number =>
    neighbors[p]!.reduce((s, q) => s + Number(q !== skip && alike[out[p]!]![out[q]!]), 0)
  const area = (p: number) => tables.parts.parts[p]!.area
  const may = (p: number, q: number): boolean =>
    by === 'count' || Math.abs(area(p) - area(q)) <= ALIKE * Math.max(area(p), area(q))
  const all = (): number => out.reduce((s, _, p) => s + clashes(p, -1), 0)
  const settle = (): void =>
    swapAround(out, values, {
      rounds: ROUNDS,
      tries: PARTNERS,
      wants: p => clashes(p, -1) > 0,
      may,
      judge: (p, q) => [clashes(p, -1) + clashes(q, p)],
      better: ([after], [before]) => after! < before!,
    })
  settle()
  const settled = all()
  if (!settled) return out
  // Where swaps that help are not enough, swaps that do not help at once lead further.
  const quick = out.slice()
  const alikeTouch = (p: number, q: number): number =>
    neighbors[p]!.includes(q) ? Number(alike[out[p]!]![out[q]!]) : 0
  coolDown(out, values, { may, cost: p => clashes(p, -1), shared: alikeTouch, heat: HEAT, each: SWAPS })
  settle()
  return all() < settled ? out : quick
}

/** Which entries of a palette differ by less than is asked for (CIEDE2000). @param list as {@link pick} has it */
function alikeEntries(list: readonly number[], differ: number): boolean[][] {
  const colors = Array.from({ length: list.length / 4 }, (_, i) => list.slice(i * 4 + 1, i * 4 + 4))
  return colors.map(a => colors.map(b => colorDifference(a, b) < differ))
}

/** Pairs of touching parts whose entries are less apart than is asked for. @returns part numbers, two for each pair */
export function alikePairs(
  entries: ArrayLike<number>,
  list: readonly number[],
  differ: number,
  pairs: Uint32Array,
): number[] {
  const alike = alikeEntries(list, differ)
  const found: number[] = []
  for (let i = 0; i < pairs.length; i += 2) {
    const [p, q] = [pairs[i]!, pairs[i + 1]!]
    if (alike[entries[p]!]![entries[q]!]) found.push(p, q)
  }
  return found
}
