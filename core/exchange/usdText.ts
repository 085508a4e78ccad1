import { plainName } from './names'
import { shortest } from './shortest'

/** Numbers as an array, `size` of them an element. */
export const rows = (values: ArrayLike<number>, size: number): string => {
  const out: string[] = []
  for (let i = 0; i < values.length; i += size) {
    const one: string[] = []
    for (let k = 0; k < size; k++) one.push(shortest(values[i + k]!))
    out.push(size === 1 ? one[0]! : `(${one.join(', ')})`)
  }
  return `[${out.join(', ')}]`
}

/** Names that are used once each within a scope. */
export function namer(): (name: string) => string {
  const taken = new Set<string>()
  return name => {
    let free = plainName(name)
    for (let i = 2; taken.has(free); i++) free = `${plainName(name)}_${i}`
    taken.add(free)
    return free
  }
}
/** Text as a string of a layer. */
export const quoted = (text: string): string =>
  `"${text
    .replaceAll('\\', '\\\\')
    .replaceAll('"', '\\"')
    .replaceAll(/[\n\r]/g, ' ')}"`
