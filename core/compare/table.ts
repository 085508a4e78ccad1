import { cell } from '../bake/values'
import { toHex } from '../color/convert'
import type { SheetNumbers } from './numbers'

/** Numbers of a tile, a few words each. */
export function numbersInWords({ lightness, chroma, hue, roughness, alike, away, steps }: SheetNumbers): string[] {
  const words = [
    `lightness ±${lightness.toFixed(3)}`,
    `chroma ±${chroma.toFixed(3)}`,
    `hue ±${hue.toFixed(0)}°`,
    `roughness ±${roughness.toFixed(2)}`,
  ]
  if (alike !== undefined) words.push(`${Math.round(alike * 100)} % of neighbors alike`)
  if (away !== undefined) words.push(`${away.toFixed(3)} away`)
  for (const { title, share } of steps) words.push(`${title} covers ${Math.round(share * 100)} %`)
  return words
}

/** A tile as a line of a table. */
export interface TableTile {
  title: string
  verdict?: string
  numbers?: SheetNumbers
}

const COLUMNS = ['lightness', 'chroma', 'hue', 'roughness', 'alike', 'away'] as const

/** A sheet as a table: a line for each tile, in the order of the sheet. */
export function sheetTable(tiles: readonly TableTile[]): string {
  const head = ['tile', 'verdict', ...COLUMNS, 'palette', 'steps']
  const lines = tiles.map(({ title, verdict = '', numbers }) => [
    title,
    verdict,
    ...COLUMNS.map(name => (numbers?.[name] === undefined ? '' : Number(numbers[name].toPrecision(5)))),
    (numbers?.palette ?? []).map(p => `${toHex(p.color)} ${Math.round(p.share * 100)}%`).join(' '),
    (numbers?.steps ?? []).map(s => `${s.title} ${Number((s.share * 100).toPrecision(4))}%`).join('; '),
  ])
  return [head, ...lines].map(line => `${line.map(cell).join(',')}\n`).join('')
}
