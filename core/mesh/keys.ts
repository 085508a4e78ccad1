import * as z from 'zod'
import { keyOf } from './hash'
import { boundsOf, GROUP_MAP, type Mesh } from './mesh'
import type { Part, Parts } from './parts'

const numbers = z.array(z.number())
/** The parts of a mesh as they were when it was brought in: what their keys go by from then on. One entry per part. */
export const keyTableSchema = z
  .strictObject({
    version: z.literal(1),
    keys: z.array(z.string().regex(/^[0-9a-f]{16}$/)),
    objects: z.array(z.string()),
    object: numbers,
    /** Three numbers per part, in meters. */
    center: numbers,
    size: numbers,
    spread: numbers,
    area: numbers,
    triangles: numbers,
    /** The groups of a file that has some, and which of them each part belongs to. */
    groups: z.array(z.strictObject({ key: z.string().regex(/^[0-9a-f]{16}$/), name: z.string() })).optional(),
    group: numbers.optional(),
  })
  .refine(
    t =>
      [t.object, t.area, t.triangles].every(c => c.length === t.keys.length) &&
      [t.center, t.size, t.spread].every(c => c.length === t.keys.length * 3) &&
      t.object.every(o => t.objects[o] !== undefined) &&
      (t.group?.length ?? t.keys.length) === t.keys.length &&
      (t.group ?? []).every(g => t.groups?.[g] !== undefined),
    'the columns do not match',
  )
export type KeyTable = z.infer<typeof keyTableSchema>

/** A key table that cannot be read. The message says where. */
export class KeyTableError extends Error {}

/** Checks unknown data and returns it as a key table. @throws KeyTableError */
export function parseKeyTable(raw: unknown): KeyTable {
  const read = keyTableSchema.safeParse(raw)
  if (read.success) return read.data
  const issue = read.error.issues[0]!
  throw new KeyTableError(`This is not a table of keys, at ${issue.path.join('.') || 'its top'}: ${issue.message}.`)
}

/** How a part of a new mesh was found again. */
export const FOUND = ['new', 'same', 'renamed', 'moved'] as const
export type How = (typeof FOUND)[number]

export interface Match {
  /** For every part of the new mesh the entry of the table, or -1. */
  from: Int32Array
  how: How[]
  /** Entries that no part matches. */
  lost: number[]
}

export function keyTable(mesh: Mesh, parts: Parts): KeyTable {
  const list = parts.parts
  return {
    ...groupsFor(mesh, parts),
    version: 1,
    keys: list.map(p => p.key),
    objects: mesh.objects.map(o => o.name),
    object: list.map(p => p.object),
    center: oneByOne(list, p => p.center),
    size: oneByOne(list, p => p.size),
    spread: oneByOne(list, p => p.spread),
    area: list.map(p => p.area),
    triangles: list.map(p => p.triangles),
  }
}

/** Three numbers of each part, one after the other. */
function oneByOne(list: readonly Part[], of: (part: Part) => readonly number[]): number[] {
  const all: number[] = []
  for (const part of list) all.push(...of(part))
  return all
}

/** How many parts go by a key that a table does not have: they draw otherwise than where the table was made. */
export function strangersTo({ keys }: Pick<KeyTable, 'keys'>, { parts }: Pick<Parts, 'parts'>): number {
  const known = new Set(keys)
  return parts.filter(p => !known.has(p.key)).length
}

/**
 * The groups that a file names, or that are known from an earlier export of it; objects say themselves which group they
 * are.
 */
function groupsFor(mesh: Mesh, { parts, groups, known }: Parts): Pick<KeyTable, 'groups' | 'group'> {
  if (!known && !mesh.maps.some(m => m.name === GROUP_MAP && m.components === 1)) return {}
  const numbers = new Map<string, number>()
  const list: NonNullable<KeyTable['groups']> = []
  const group = parts.map((p, i) => {
    const { key, name } = known?.[i] ?? groups[p.group]!
    const old = numbers.get(key)
    if (old !== undefined) return old
    numbers.set(key, list.length)
    return list.push({ key, name }) - 1
  })
  return { groups: list, group }
}

/** The same parts in units `factor` times as large. */
export function scaleTable(table: KeyTable, factor: number): KeyTable {
  if (factor === 1) return table
  const by = (column: number[], f: number) => column.map(x => x * f)
  return {
    ...table,
    center: by(table.center, factor),
    size: by(table.size, factor),
    spread: by(table.spread, factor),
    area: by(table.area, factor ** 2),
  }
}

interface Pair {
  cost: number
  entry: number
  part: number
}

/** What may differ between two exports of the same part, as a share of its own size. */
const TOLERANCE = 2e-3
/** And as a share of the whole mesh's diagonal: rounding of coordinates far from the origin. */
const TOLERANCE_WHOLE = 4e-6
/** Relative difference in area: a part of tiny triangles shows rounding more. */
const TOLERANCE_AREA = 0.02

/** A turn by right angles: which axis each one comes from, and with which sign. */
interface Turn {
  axes: readonly [number, number, number]
  signs: readonly [number, number, number]
}

/** The 24 turns by right angles; first none, then those that change which axis is up. */
const TURNS: readonly Turn[] = (() => {
  const orders = [
    [0, 1, 2],
    [0, 2, 1],
    [1, 0, 2],
    [1, 2, 0],
    [2, 0, 1],
    [2, 1, 0],
  ] as const
  const swaps = (axes: readonly number[]) =>
    axes.reduce((n, x, i) => n + axes.slice(i + 1).filter(y => y < x).length, 0)
  return orders.flatMap(axes =>
    [0, 1, 2, 3, 4, 5, 6, 7].flatMap(bits => {
      const signs = [0, 1, 2].map(k => ((bits >> k) & 1 ? -1 : 1)) as [number, number, number]
      const proper = (swaps(axes) % 2 === 0 ? 1 : -1) * signs[0] * signs[1] * signs[2] === 1
      return proper ? [{ axes, signs }] : []
    }),
  )
})()

/** Below this share of parts found in place, the whole mesh may have been turned, scaled or moved. */
const FOUND_ENOUGH = 0.5

const boxOfCenters = (centers: readonly (readonly number[])[]): { middle: number[]; size: number[] } => {
  const min = [0, 1, 2].map(k => centers.reduce((m, c) => Math.min(m, c[k]!), Infinity))
  const max = [0, 1, 2].map(k => centers.reduce((m, c) => Math.max(m, c[k]!), -Infinity))
  return { middle: min.map((x, k) => (x + max[k]!) / 2), size: min.map((x, k) => max[k]! - x) }
}

/**
 * The table as it would be had its mesh been exported in other units, with another axis up, or with another origin:
 * every way by which the places of its parts fill the same box as those of the mesh. The units follow from the area.
 */
function alignments(table: KeyTable, parts: Parts): KeyTable[] {
  const list = parts.parts
  const area = (of: readonly number[]) => of.reduce((sum, x) => sum + x, 0)
  const ratio = Math.sqrt(area(list.map(p => p.area)) / area(table.area))
  if (!Number.isFinite(ratio) || ratio <= 0) return []
  const scaled = scaleTable(table, Math.abs(ratio - 1) < TOLERANCE ? 1 : ratio)
  const goal = boxOfCenters(list.map(p => p.center))
  const slack = TOLERANCE * Math.hypot(...goal.size) + 1e-12
  const triples = (column: readonly number[]) => table.keys.map((_, i) => column.slice(i * 3, i * 3 + 3))
  const centers = triples(scaled.center)
  const sizes = triples(scaled.size)
  return TURNS.flatMap(({ axes, signs }) => {
    const turned = centers.map(c => axes.map((axis, k) => c[axis]! * signs[k]!))
    const box = boxOfCenters(turned)
    if (box.size.some((x, k) => Math.abs(x - goal.size[k]!) > slack)) return []
    const shift = goal.middle.map((x, k) => x - box.middle[k]!)
    const center = turned.flatMap(c => c.map((x, k) => x + shift[k]!))
    return [{ ...scaled, center, size: sizes.flatMap(s => axes.map(axis => s[axis]!)) }]
  })
}

const foundInPlace = ({ how }: Match): number => how.filter(h => h === 'same' || h === 'renamed').length

/**
 * Matches the parts of a new mesh with those of a table, one to one. Where hardly any is in its place, the table is
 * tried as if the whole mesh had been exported in other units, with another axis up or with another origin.
 */
export function matchKeys(table: KeyTable, mesh: Mesh, parts: Parts): Match {
  let best = matchInPlace(table, mesh, parts)
  const most = Math.min(table.keys.length, parts.parts.length)
  const foundAt = foundInPlace(best)
  if (foundAt >= FOUND_ENOUGH * most) return best
  for (const aligned of alignments(table, parts)) {
    const match = matchInPlace(aligned, mesh, parts)
    if (foundInPlace(match) > foundInPlace(best)) best = match
  }
  return foundAt === foundInPlace(best) ? best : { ...best, how: best.how.map(h => (h === 'new' ? h : 'moved')) }
}

/** Whether a table is of the very parts, one by one: so it is whenever a project is opened again. */
function isOf(table: KeyTable, mesh: Mesh, list: readonly Part[]): boolean {
  if (table.keys.length !== list.length) return false
  return list.every((p, i) => {
    const isThere = p.center.every((x, k) => x === table.center[i * 3 + k])
    const isAsLarge = p.size.every((x, k) => x === table.size[i * 3 + k]) && p.area === table.area[i]
    return isThere && isAsLarge && mesh.objects[p.object]!.name === table.objects[table.object[i]!]
  })
}

/**
 * Matches the parts of a new mesh with those of a table, one to one: (1) same object name, place, size and area; (2)
 * the same under another object name; (3) moved or turned parts, by triangle count, area and spread, the nearest first
 * after the shift that most of its object made. Within a step the closest pairs go first, ties in space order.
 */
function matchInPlace(table: KeyTable, mesh: Mesh, parts: Parts): Match {
  const list = parts.parts
  if (isOf(table, mesh, list))
    return { from: Int32Array.from(list, (_, i) => i), how: list.map(() => 'same'), lost: [] }
  const from = new Int32Array(list.length).fill(-1)
  const how: How[] = list.map(() => 'new')
  const taken = new Uint8Array(table.keys.length)
  const { min, max } = boundsOf(mesh.positions, mesh.indices)
  const whole = Math.hypot(...max.map((x, k) => x - min[k]!)) * TOLERANCE_WHOLE
  const at = (column: number[], i: number, k: number) => column[i * 3 + k]!
  const reach = (entry: number) =>
    whole + TOLERANCE * Math.hypot(at(table.size, entry, 0), at(table.size, entry, 1), at(table.size, entry, 2))
  const alike = (x: number, y: number, share: number) => Math.abs(x - y) <= share * Math.max(x, y) + 1e-18
  const assign = (pairs: Pair[], as: How) => {
    pairs.sort((a, b) => a.cost - b.cost || a.part - b.part || a.entry - b.entry)
    for (const { entry, part } of pairs) {
      if (taken[entry] || from[part]! >= 0) continue
      from[part] = entry
      how[part] = as
      taken[entry] = 1
    }
  }

  // (1, 2) Entries in the cells of a grid; a part asks the cells around its center.
  const cell = table.keys.reduce((most, _, i) => Math.max(most, reach(i)), 1e-9) * 2
  const cellOf = (x: number, y: number, z: number) => `${x},${y},${z}`
  const grid = new Map<string, number[]>()
  for (let i = 0; i < table.keys.length; i++) {
    const id = cellOf(...([0, 1, 2].map(k => Math.floor(at(table.center, i, k) / cell)) as [number, number, number]))
    const known = grid.get(id)
    if (known) known.push(i)
    else grid.set(id, [i])
  }
  const inPlace = (sameName: boolean): Pair[] => {
    const pairs: Pair[] = []
    list.forEach((p, part) => {
      if (from[part]! >= 0) return
      const name = mesh.objects[p.object]!.name
      const c = p.center.map(x => Math.floor(x / cell))
      // Half a cell is the reach, so the neighbors on the nearer side are enough.
      const side = p.center.map((x, k) => (x / cell - c[k]! < 0.5 ? -1 : 1))
      for (let n = 0; n < 8; n++) {
        for (const entry of grid.get(
          cellOf(...([0, 1, 2].map(k => c[k]! + ((n >> k) & 1 ? side[k]! : 0)) as [number, number, number])),
        ) ?? []) {
          if (taken[entry] || (table.objects[table.object[entry]!] === name) !== sameName) continue
          const far = Math.hypot(...p.center.map((x, k) => x - at(table.center, entry, k)))
          const grown = Math.max(...p.size.map((x, k) => Math.abs(x - at(table.size, entry, k))))
          if (far <= reach(entry) && grown <= reach(entry) && alike(p.area, table.area[entry]!, TOLERANCE_AREA))
            pairs.push({ cost: far + grown, entry, part })
        }
      }
    })
    return pairs
  }
  assign(inPlace(true), 'same')
  assign(inPlace(false), 'renamed')

  // (3) What is left, by shape: first within the object, then anywhere.
  for (const sameName of [true, false]) {
    const entries = new Map<string, number[]>()
    const wanted = new Map<string, number[]>()
    const put = (into: Map<string, number[]>, id: string, i: number) => {
      const known = into.get(id)
      if (known) known.push(i)
      else into.set(id, [i])
    }
    table.keys.forEach((_, i) => {
      if (!taken[i]) put(entries, `${sameName ? table.objects[table.object[i]!] : ''}|${table.triangles[i]}`, i)
    })
    list.forEach((p, i) => {
      if (from[i]! < 0) put(wanted, `${sameName ? mesh.objects[p.object]!.name : ''}|${p.triangles}`, i)
    })
    const pairs: Pair[] = []
    for (const [id, found] of wanted) {
      const left = entries.get(id) ?? []
      if (!left.length || left.length * found.length > 4e6) continue
      const mean = (count: number, value: (i: number) => ArrayLike<number>) =>
        [0, 1, 2].map(k => Array.from({ length: count }, (_, i) => value(i)[k]!).reduce((s, x) => s + x, 0) / count)
      const before = mean(left.length, i => table.center.slice(left[i]! * 3, left[i]! * 3 + 3))
      const after = mean(found.length, i => list[found[i]!]!.center)
      // As many as before: probably all of them made the same move.
      const shift = left.length === found.length ? after.map((x, k) => x - before[k]!) : [0, 0, 0]
      for (const part of found) {
        const p = list[part]!
        for (const entry of left) {
          const spreads = p.spread.every(
            (x, k) => Math.abs(x - at(table.spread, entry, k)) <= 0.01 * p.spread[0] + whole,
          )
          if (!spreads || !alike(p.area, table.area[entry]!, 0.01)) continue
          pairs.push({
            cost: Math.hypot(...p.center.map((x, k) => x - shift[k]! - at(table.center, entry, k))),
            entry,
            part,
          })
        }
      }
    }
    assign(pairs, 'moved')
  }
  return { from, how, lost: [...taken.keys()].filter(i => !taken[i]) }
}

/**
 * Gives the parts their keys from a table; parts that are new keep the key of what they are, made unique.
 * @param mesh where it has no groups of its own, the parts keep those that they had
 */
export function inheritKeys(parts: Parts, table: KeyTable, { from }: Match, mesh?: Mesh): void {
  const { groups, group } = table
  const own = mesh?.maps.some(m => m.name === GROUP_MAP && m.components === 1)
  if (mesh && !own && groups && group) parts.known = [...from].map(entry => groups[group[entry]!])
  const used = new Set<string>()
  parts.parts.forEach((p, i) => {
    if (from[i]! < 0) return
    p.key = table.keys[from[i]!]!
    used.add(p.key)
  })
  parts.parts.forEach((p, i) => {
    if (from[i]! >= 0) return
    const own = p.key
    for (let n = 1; used.has(p.key); n++) p.key = keyOf(`${own}+${n}`)
    used.add(p.key)
  })
}
