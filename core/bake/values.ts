import { sampler } from '../evaluate/sampler'
import type { MeshTables } from '../evaluate/tables'
import { CHANNEL_LANES, CHANNEL_NAMES, CHANNELS, type Channel } from '../graph/types'
import type { Kernels } from '../kernels/kernels'
import { samplePartPoints, samplePoints } from '../mesh/sample'
import type { ParamReader, Program } from '../program/lower'

export interface PartValues { key: string, name: string, area: number, channels: Record<Channel, number[]> }

/** Points per part behind each mean. */
const POINTS = 256

/** The mean of every channel over the whole surface, by area, from 8,192 points. */
export function surfaceMeans(kernels: Kernels, tables: MeshTables, program: Program, read: ParamReader): Record<Channel, number[]> {
  const columns = sampler(kernels, tables, program, read)(CHANNEL_NAMES.flatMap(name => program.result[name]))(samplePoints(tables.mesh, 8192))
  const means = columns.map(c => c.reduce((sum, x) => sum + x, 0) / c.length)
  return Object.fromEntries(CHANNEL_NAMES.map(name => [name, means.splice(0, program.result[name].length)])) as Record<Channel, number[]>
}

/** The mean of every channel over every part, by area. Colors are linear. */
export function partValues(kernels: Kernels, tables: MeshTables, program: Program, read: ParamReader): PartValues[] {
  const columns = sampler(kernels, tables, program, read)(CHANNEL_NAMES.flatMap(name => program.result[name]))(samplePartPoints(tables.mesh, tables.parts, POINTS))
  return tables.parts.parts.map((part, i) => {
    let at = 0
    const mean = () => {
      const column = columns[at++]!
      let sum = 0
      for (let n = i * POINTS; n < (i + 1) * POINTS; n++) sum += column[n]!
      return sum / POINTS
    }
    const channels = Object.fromEntries(CHANNEL_NAMES.map(name => [name, program.result[name].map(mean)])) as Record<Channel, number[]>
    return { key: part.key, name: part.name, area: part.area, channels }
  })
}

/** The table as CSV (RFC 4180): colors as three linear numbers. */
export function partValuesCsv(rows: readonly PartValues[]): string {
  const cell = (x: string | number) => typeof x === 'number' ? String(Number(x.toPrecision(6))) : /[",\n]/.test(x) ? `"${x.replaceAll('"', '""')}"` : x
  const head = ['key', 'name', 'area', ...CHANNEL_NAMES.flatMap(c => CHANNEL_LANES[CHANNELS[c].size]!.map(lane => c + lane))]
  return [head, ...rows.map(r => [r.key, r.name, r.area, ...CHANNEL_NAMES.flatMap(c => r.channels[c])])]
    .map(line => line.map(cell).join(',')).join('\r\n') + '\r\n'
}
