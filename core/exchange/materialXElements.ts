import { XMLParser } from 'fast-xml-parser'
import { LookError } from '../graph/look'

/** An element of a MaterialX document. */
export interface Element {
  tag: string
  name: string
  type: string
  attributes: Record<string, string>
  inputs: Map<string, Element>
  children: Element[]
}

/** Documents larger than this are no material documents. */
const MOST_CHARACTERS = 20_000_000

type Raw = Record<string, unknown>
function elements(raw: readonly Raw[]): Element[] {
  return raw.flatMap(entry => {
    const tag = Object.keys(entry).find(k => k !== ':@')
    if (!tag || tag.startsWith('#') || tag.startsWith('?')) return []
    const attributes = Object.fromEntries(
      Object.entries((entry[':@'] ?? {}) as Record<string, unknown>).map(([k, v]) => [k, String(v)]),
    )
    const children = elements(Array.isArray(entry[tag]) ? (entry[tag] as Raw[]) : [])
    return [
      {
        tag,
        name: attributes.name ?? '',
        type: attributes.type ?? '',
        attributes,
        children,
        inputs: new Map(children.filter(c => c.tag === 'input').map(c => [c.name, c])),
      },
    ]
  })
}

const PARSER = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '',
  preserveOrder: true,
  parseAttributeValue: false,
  processEntities: true,
})
function parsed(text: string): Raw[] {
  try {
    return PARSER.parse(text, true) as Raw[]
  } catch (error) {
    const [why] = (error as Error).message.split('\n')
    throw new LookError(`This is not a MaterialX document: ${why!.replace(/\.+$/, '')}.`)
  }
}

/** The root of a document. @throws LookError with one sentence where it is none */
export function documentOf(text: string): Element {
  if (text.length > MOST_CHARACTERS) throw new LookError('The material document is too large.')
  const document = elements(parsed(text)).find(e => e.tag === 'materialx')
  if (!document) throw new LookError('This is not a MaterialX document: it has no materialx element.')
  return document
}

/** The numbers of an attribute. */
export const numbersOf = (text: string): number[] => text.split(',').map(Number)
/** The first number of an input that is a value; `otherwise` where there is none. */
export function numberOf(e: Element, input: string, otherwise: number): number {
  const text = e.inputs.get(input)?.attributes.value
  const read = text === undefined ? NaN : numbersOf(text)[0]!
  return Number.isFinite(read) ? read : otherwise
}
/** The node that an input is wired to, within a scope. */
export const wiredTo = (scope: Element, input: Element | undefined): Element | undefined =>
  input?.attributes.nodename ? scope.children.find(c => c.name === input.attributes.nodename) : undefined
