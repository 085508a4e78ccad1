import type { LaidLook } from '../evaluate/laidLook'
import { toHex } from '../color/convert'
import { titleOf } from '../graph/check'
import { flatten } from '../graph/flatten'
import { paramOf } from '../graph/kinds'
import type { Look, LookNode } from '../graph/look'
import { CHANNEL_LANES, CHANNEL_NAMES, CHANNELS, type Channel, type Stop } from '../graph/types'
import { samplePartPoints } from '../mesh/sample'
import { PART, type Ref } from '../program/ops'

/**
 * A line of the part table: mean and spread (standard deviation) of each channel over the part, by area; colors are
 * linear. Draws are by the name of their node.
 */
export interface PartValues {
  key: string
  name: string
  object: string
  area: number
  /**
   * Its number on the geometry of what leaves, from 0; that of its group; the names of what its object lies in, from
   * the outermost.
   */
  index: number
  group: { index: number; name: string }
  parents: readonly string[]
  /** In meters. */
  center: readonly [number, number, number]
  box: { min: readonly [number, number, number]; max: readonly [number, number, number] }
  channels: Record<Channel, number[]>
  spread: Record<Channel, number[]>
  draws: Record<string, number | string>
}

/** Points per part behind each mean. */
const POINTS = 256

/** What is drawn for each part: the value of every random node, the entry (from 1) and color of every palette. */
function drawsOf(laid: LaidLook, look: Look): { name: string; of: (part: number) => number | string }[] {
  const { tables, program } = laid
  const nodes = flatten(look).nodes.filter(n => n.kind === 'partRandom' || n.kind === 'palette')
  const found: { name: string; node: LookNode; refs: Ref[] }[] = []
  const taken = new Set<string>()
  for (const node of nodes) {
    const value = program.outputs.get(`${node.id}/value`)
    const color = program.outputs.get(`${node.id}/color`)
    if (value?.type !== 'value' || program.domains[value.value]! > PART) continue
    const title = titleOf(node)
    const name = taken.has(title) ? `${title} (${node.id})` : title
    taken.add(name)
    found.push({ name, node, refs: [value.value, ...(color?.type === 'color' ? color.value : [])] })
  }
  const refs = found.flatMap(f => f.refs)
  const points = samplePartPoints(tables.mesh, tables.parts, 1)
  const columns = refs.length ? laid.sampler(refs)(points) : []
  let at = 0
  return found.flatMap(({ name, node, refs: own }) => {
    const [value, ...rgb] = columns.slice(at, (at += own.length)) as [Float32Array, ...Float32Array[]]
    if (node.kind !== 'palette') return [{ name, of: (part: number) => value[part]! }]
    const entries = (paramOf(node, 'colors') as Stop[]).length
    return [
      { name: `${name} entry`, of: (part: number) => Math.round(value[part]! * Math.max(1, entries - 1)) + 1 },
      { name: `${name} color`, of: (part: number) => toHex(rgb.map(c => c[part]!)) },
    ]
  })
}

/** Mean and spread of every channel over every part, by area, and what is drawn for it. */
export function partValues(laid: LaidLook, look: Look): PartValues[] {
  const { tables, program } = laid
  const columns = laid.sampler(CHANNEL_NAMES.flatMap(name => program.result[name]))(
    samplePartPoints(tables.mesh, tables.parts, POINTS),
  )
  const draws = drawsOf(laid, look)
  return tables.parts.parts.map((part, i) => {
    const read = columns.map(column => {
      const own = column.subarray(i * POINTS, (i + 1) * POINTS)
      const mean = own.reduce((sum, x) => sum + x, 0) / POINTS
      return { mean, spread: Math.sqrt(own.reduce((sum, x) => sum + (x - mean) ** 2, 0) / POINTS) }
    })
    const per = (what: 'mean' | 'spread') => {
      let at = 0
      return Object.fromEntries(
        CHANNEL_NAMES.map(name => [name, program.result[name].map(() => read[at++]![what])]),
      ) as Record<Channel, number[]>
    }
    return {
      key: part.key,
      name: part.name,
      object: tables.mesh.objects[part.object]!.name,
      area: part.area,
      index: i,
      group: { index: part.group, name: tables.parts.groups[part.group]!.name },
      parents: tables.mesh.objects[part.object]!.parents ?? [],
      center: part.center,
      box: { min: part.min, max: part.min.map((x, k) => x + part.size[k]!) as [number, number, number] },
      channels: per('mean'),
      spread: per('spread'),
      draws: Object.fromEntries(draws.map(d => [d.name, d.of(i)])),
    }
  })
}

/**
 * A cell of a table (RFC 4180). Text that a spreadsheet would take for a formula stands behind an apostrophe, which
 * keeps it text.
 */
export function cell(x: string | number): string {
  if (typeof x === 'number') return String(Number(x.toPrecision(6)))
  const text = /^[=+\-@\t\r]/.test(x) ? `'${x}` : x
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text
}

/** The table as CSV: colors as three linear numbers, the spread of a channel behind all means. */
export function partValuesCsv(rows: readonly PartValues[]): string {
  const lanes = CHANNEL_NAMES.flatMap(c => CHANNEL_LANES[CHANNELS[c].size]!.map(lane => c + lane))
  const draws = Object.keys(rows[0]?.draws ?? {})
  const places = ['center', 'min', 'max'].flatMap(what => ['x', 'y', 'z'].map(k => `${what} ${k}`))
  const head = [
    'key',
    'name',
    'object',
    'area',
    'index',
    'group',
    'parent',
    ...places,
    ...lanes,
    ...lanes.map(l => `${l} spread`),
    ...draws,
  ]
  return (
    [
      head,
      ...rows.map(r => [
        r.key,
        r.name,
        r.object,
        r.area,
        r.index,
        r.group.name,
        r.parents.join('/'),
        ...r.center,
        ...r.box.min,
        ...r.box.max,
        ...CHANNEL_NAMES.flatMap(c => r.channels[c]),
        ...CHANNEL_NAMES.flatMap(c => r.spread[c]),
        ...draws.map(d => r.draws[d]!),
      ]),
    ]
      .map(line => line.map(cell).join(','))
      .join('\r\n') + '\r\n'
  )
}
