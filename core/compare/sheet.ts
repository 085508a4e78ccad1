import { fromLab, toHex, toLab, type Triple } from '../color/convert'
import { setParam } from '../graph/edit'
import { inputType, kindFor, paramOf } from '../graph/kinds'
import { LookError, type Look, type LookNode } from '../graph/look'
import { nodeOf } from '../graph/find'
import { reseed } from '../graph/recipe'
import { titleOf } from '../graph/check'
import type { ParamDeclaration, ParamValue, Unit } from '../nodes/declare'

/** A look of a sheet: what it is called, and what makes it of the one that is worked on. */
export interface SheetTile {
  /** Tells it from the other tiles, and from tiles of other sheets. */
  id: string
  title: string
  /** The look that it shows. */
  of(look: Look): Look
}

/** A setting that can be swept: numbers, colors, choices and switches. */
export interface Sweepable {
  node: string
  param: string
  title: string
  declaration: SweptDeclaration
  value: ParamValue
}
const SWEPT = ['number', 'color', 'choice', 'toggle'] as const
type SweptDeclaration = Extract<ParamDeclaration, { type: (typeof SWEPT)[number] }>

/** One direction of a sweep. Choices and switches go through all that they can be. */
export interface Sweep {
  node: string
  param: string
  from: number | Triple
  to: number | Triple
  count: number
  /** Numbers go by even ratios rather than even differences, where both ends are above zero. */
  ratios?: boolean
}

/** The most steps of a sweep in one direction. */
export const MOST_STEPS = 16

/** Tiles that differ in their draws: the look as it is, and rolls from a number on. */
export function rollTiles(count: number, first: number, only?: ReadonlySet<string>): SheetTile[] {
  const numbers = [0, ...Array.from({ length: count - 1 }, (_, i) => first + i)]
  return numbers.map(number => rollTile(number, only))
}

export const rollTile = (number: number, only?: ReadonlySet<string>): SheetTile => ({
  id: `roll ${number}`,
  title: number ? `Roll ${number}` : 'As it is',
  of: look => reseed(look, number, only),
})

const isSwept = (d: ParamDeclaration): d is SweptDeclaration => (SWEPT as readonly string[]).includes(d.type)

/** Every setting of a look that can be swept, in the order of its nodes: parameters, and inputs without a wire. */
export function sweepables(look: Look): Sweepable[] {
  return look.nodes.flatMap(node => {
    const { params = {}, inputs = {} } = kindFor(node) ?? {}
    return [...Object.keys(inputs), ...Object.keys(params)].flatMap(name => {
      const declaration = declarationAt(look, node, name)
      return declaration ? [sweepableOf(node, name, declaration)] : []
    })
  })
}

function declarationAt(look: Look, node: LookNode, name: string): SweptDeclaration | undefined {
  const kind = kindFor(node)
  const param = kind?.params[name]
  if (param) return isSwept(param) ? param : undefined
  const input = kind?.inputs[name]
  if (!input || look.wires.some(w => w.to.node === node.id && w.to.port === name)) return undefined
  const { title, help, shape, default: value } = input
  const type = inputType(node, input)
  if (type === 'value' && shape && typeof value === 'number')
    return { type: 'number', title, help, default: value, ...shape }
  return type === 'color' && Array.isArray(value) ? { type, title, help, default: value } : undefined
}

function sweepableOf(node: LookNode, param: string, declaration: SweptDeclaration): Sweepable {
  const value = paramOf(node, param)!
  return { node: node.id, param, declaration, value, title: `${titleOf(node)} · ${declaration.title}` }
}

/** A setting by its node and name. @throws LookError where the look has none, or one that cannot be swept */
export function sweepableAt(look: Look, id: string, param: string): Sweepable {
  const node = nodeOf(look, id)
  if (!node) throw new LookError(`The look has no node "${id}".`)
  const kind = kindFor(node)
  if (!kind?.params[param] && !kind?.inputs[param]) throw new LookError(`The node "${id}" has no setting "${param}".`)
  const declaration = declarationAt(look, node, param)
  if (!declaration)
    throw new LookError(
      `The setting "${param}" of "${id}" is no open number, color, choice or switch, so it cannot be swept.`,
    )
  return sweepableOf(node, param, declaration)
}

/** A range to begin with: all of a short one, else from half to twice the value. */
export function rangeOf({ declaration, value }: Sweepable): { from: number | Triple; to: number | Triple } {
  if (declaration.type === 'color') return { from: value as Triple, to: [1 - (value as Triple)[0], 0.5, 0.5] }
  if (declaration.type !== 'number') return { from: 0, to: 1 }
  const { min, max } = declaration
  if (max - min <= 400) return { from: min, to: max }
  const middle = Number(value) || 1
  const [a, b] = [middle / 2, middle * 2].map(x => Math.min(max, Math.max(min, x))) as [number, number]
  return { from: Math.min(a, b), to: Math.max(a, b) }
}

/** A number some share of the way from one to another. */
function between(from: number, to: number, share: number, ratios = false): number {
  return ratios && from > 0 && to > 0 ? from * (to / from) ** share : from + (to - from) * share
}

/**
 * The values of a sweep. Numbers go in even steps or ratios within what the setting allows, colors in steps that are
 * even to the eye (a straight line in OKLab).
 */
export function sweepValues(look: Look, sweep: Sweep): { value: ParamValue; label: string }[] {
  const { declaration } = sweepableAt(look, sweep.node, sweep.param)
  const count = Math.min(MOST_STEPS, Math.max(1, Math.round(sweep.count)))
  const shares = Array.from({ length: count }, (_, i) => (count > 1 ? i / (count - 1) : 0))
  switch (declaration.type) {
    case 'choice':
      return declaration.options.slice(0, MOST_STEPS).map(o => ({ value: o.value, label: o.title }))
    case 'toggle':
      return [false, true].map(value => ({ value, label: value ? 'on' : 'off' }))
    case 'number': {
      const { min, max, unit, whole } = declaration
      const [from, to] = [Number(sweep.from), Number(sweep.to)]
      const values = shares.map(t => {
        const x = Math.min(max, Math.max(min, between(from, to, t, sweep.ratios)))
        return whole ? Math.round(x) : Number(x.toPrecision(5))
      })
      return [...new Set(values)].map(value => ({ value, label: withUnit(Number(value.toPrecision(3)), unit) }))
    }
    case 'color': {
      const [from, to] = [toLab(sweep.from as Triple), toLab(sweep.to as Triple)]
      return shares.map(t => {
        const value = fromLab(from.map((x, k) => x + (to[k]! - x) * t) as Triple).map(x =>
          Math.min(1, Math.max(0, x)),
        ) as Triple
        return { value, label: toHex(value) }
      })
    }
  }
}

function withUnit(value: number, unit: Unit = ''): string {
  return unit === '°' ? `${value}°` : `${value} ${unit}`.trim()
}

/**
 * Tiles of a sweep, row by row: columns go through one setting, rows through another.
 * @throws LookError where a setting cannot be swept
 */
export function sweepTiles(look: Look, columns: Sweep, rows?: Sweep): SheetTile[] {
  const across = sweepValues(look, columns)
  const down = rows ? sweepValues(look, rows) : [undefined]
  const told = ({ node, param }: Sweep, value: ParamValue): string => `${node}.${param}=${JSON.stringify(value)}`
  const titled = ({ node, param }: Sweep): string => sweepableAt(look, node, param).declaration.title
  return down.flatMap(row =>
    across.map(column => {
      const words = [`${titled(columns)} ${column.label}`]
      if (row) words.push(`${titled(rows!)} ${row.label}`)
      return {
        id: ['sweep', told(columns, column.value), rows && row ? told(rows, row.value) : ''].join(' ').trim(),
        title: words.join(' · '),
        of(now: Look) {
          const swept = setParam(now, columns.node, columns.param, column.value)
          return row ? setParam(swept, rows!.node, rows!.param, row.value) : swept
        },
      }
    }),
  )
}
