/**
 * A list of objects, key by key. Between threads, a hundred thousand small objects take a second; their columns take
 * none of it.
 */
export interface Columns<T> {
  count: number
  /** Undefined where the objects do not all have the same keys: then `list` has them as they are. */
  columns?: [key: keyof T & string, column: Column][]
  list?: readonly T[]
}
/** Numbers, or lists of as many numbers each, one after the other; or whatever it is. */
type Column = { numbers: Float64Array; each: number | null } | { values: unknown[] }

/** How many numbers there are in each of some values; null where each is a number, undefined where some are not. */
function numbersIn(values: readonly unknown[]): number | null | undefined {
  const [first] = values
  if (typeof first === 'number') return values.every(v => typeof v === 'number') ? null : undefined
  if (!Array.isArray(first) || !first.length) return undefined
  const isList = (v: unknown): boolean => {
    if (!Array.isArray(v) || v.length !== first.length) return false
    for (let k = 0; k < v.length; k++) if (typeof v[k] !== 'number') return false
    return true
  }
  return values.every(isList) ? first.length : undefined
}

function columnOf(values: unknown[]): Column {
  const each = numbersIn(values)
  if (each === undefined) return { values }
  if (each === null) return { numbers: Float64Array.from(values as number[]), each }
  const numbers = new Float64Array(values.length * each)
  for (let i = 0; i < values.length; i++) {
    for (let k = 0; k < each; k++) numbers[i * each + k] = (values[i] as number[])[k]!
  }
  return { numbers, each }
}

/** Takes a list apart. What is in it must be of plain data. */
export function columnsOf<T extends object>(list: readonly T[]): Columns<T> {
  const [first] = list
  if (!first) return { count: 0, list }
  const keys = Object.keys(first) as (keyof T & string)[]
  const hasTheSame = (item: T): boolean => {
    let n = 0
    for (const key in item) if (key !== keys[n++]) return false
    return n === keys.length
  }
  if (!list.every(hasTheSame)) return { count: list.length, list }
  return { count: list.length, columns: keys.map(key => [key, columnOf(list.map(item => item[key]))]) }
}

/** Puts it together again. */
export function listOf<T extends object>({ count, columns, list }: Columns<T>): T[] {
  if (!columns) return [...list!]
  const whole: Record<string, unknown>[] = []
  for (let i = 0; i < count; i++) whole.push({})
  for (const [key, column] of columns) {
    for (let i = 0; i < count; i++) whole[i]![key] = entryOf(column, i)
  }
  return whole as T[]
}

function entryOf(column: Column, i: number): unknown {
  if ('values' in column) return column.values[i]
  const { numbers, each } = column
  if (each === null) return numbers[i]
  const entry: number[] = []
  for (let k = 0; k < each; k++) entry.push(numbers[i * each + k]!)
  return entry
}
