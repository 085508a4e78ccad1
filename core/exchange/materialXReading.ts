import { addNode, connect, setParam } from '../graph/edit'
import { inputType, kindFor } from '../graph/kinds'
import { emptyLook, LookError, type Look } from '../graph/look'
import { nodeOf } from '../graph/find'
import type { Rgb } from '../graph/types'
import type { ParamValue } from '../nodes/declare'
import { numbersOf, type Element } from './materialXElements'

/** Booleans as numbers. */
const TRUTH: Record<string, string | undefined> = { true: '1', false: '0' }
const MOST_NODES = 1500

/** Numbers, or where a node's value comes out. */
export type Value = readonly number[] | { node: string; port: string }
export type Wanted = 'value' | 'color'
const isNumbers = (v: Value): v is readonly number[] => Array.isArray(v)

/** An element that is to become nodes: where it stands, which of its outputs, and what whoever asks takes. */
export interface Asked {
  e: Element
  scope: Element
  output: string | undefined
  wanted: Wanted
}

/** A look that is being made from a document, and what is to be said of it. */
export class MaterialXReading {
  look: Look
  readonly report = new Set<string>()
  private count = 0
  private readonly made = new Map<string, Value>()
  private readonly busy = new Set<string>()
  private readonly graphs: ReadonlyMap<string, Element>

  /** @param convert makes nodes of an element; nothing where there are none for it */
  constructor(
    private readonly document: Element,
    name: string,
    private readonly convert: (reading: MaterialXReading, asked: Asked) => Value | undefined,
  ) {
    this.look = emptyLook(name.slice(0, 120))
    this.graphs = new Map(document.children.filter(e => e.tag === 'nodegraph').map(g => [g.name, g]))
  }

  /** Adds a node. @returns its id */
  node(kind: string, params: Record<string, ParamValue> = {}): string {
    if (++this.count > MOST_NODES) throw new LookError(`The document has more than ${MOST_NODES} nodes.`)
    const added = addNode(this.look, kind, [0, 0])
    this.look = Object.entries(params).reduce((l, [k, v]) => setParam(l, added.id, k, v), added.look)
    return added.id
  }

  /** Feeds an input of ours by wire or number; says so where it cannot. */
  feed(id: string, input: string, value: Value | undefined): void {
    if (!value) return
    if (isNumbers(value)) {
      this.look = setParam(this.look, id, input, this.settingOf(id, input, value))
      return
    }
    const next = connect(this.look, value, { node: id, port: input })
    if (next === this.look) this.report.add(`A value could not be wired into ${input} of ${id}.`)
    this.look = next
  }
  /** A number for a color is a gray, a color for a number its luminance, as wires have it. */
  private settingOf(id: string, input: string, value: readonly number[]): ParamValue {
    const node = nodeOf(this.look, id)!
    const isColor = value.length >= 3
    const [r, g, b] = isColor ? (value as Rgb) : [value[0]!, value[0]!, value[0]!]
    if (inputType(node, kindFor(node)!.inputs[input]!) === 'color') return [r!, g!, b!]
    return isColor ? 0.2126 * r! + 0.7152 * g! + 0.0722 * b! : r!
  }

  /** What comes in at an input of an element; `otherwise` where nothing does. */
  input({ e, scope }: Pick<Asked, 'e' | 'scope'>, name: string, wanted: Wanted, otherwise?: readonly number[]) {
    const given = e.inputs.get(name)
    return (given && this.arriving(given, scope, wanted)) ?? otherwise
  }
  private arriving({ attributes }: Element, scope: Element, wanted: Wanted): Value | undefined {
    const { value, nodename, nodegraph, output, interfacename } = attributes
    if (value !== undefined) {
      const read = numbersOf(TRUTH[value] ?? value)
      if (read.some(x => !Number.isFinite(x))) return undefined
      return wanted === 'color' && read.length === 1 ? [read[0]!, read[0]!, read[0]!] : read
    }
    if (interfacename) {
      const outer = scope.inputs.get(interfacename)
      return outer && this.arriving(outer, this.document, wanted)
    }
    if (nodegraph) {
      const graph = this.graphs.get(nodegraph)
      const out = graph?.children.find(c => c.tag === 'output' && (!output || c.name === output))
      if (!graph || !out?.attributes.nodename) return undefined
      return this.follow(graph, out.attributes.nodename, out.attributes.output, wanted)
    }
    return nodename ? this.follow(scope, nodename, output, wanted) : undefined
  }

  /** What an element gives out, made once. */
  private follow(scope: Element, target: string, output: string | undefined, wanted: Wanted): Value | undefined {
    const key = `${scope.name}/${target}/${output ?? ''}`
    if (this.made.has(key)) return this.made.get(key)
    const e = scope.children.find(c => c.name === target)
    if (!e) {
      this.report.add(`"${target}" is named but not in the document.`)
      return undefined
    }
    if (this.busy.has(key)) throw new LookError(`The document has a loop at "${target}".`)
    this.busy.add(key)
    const value = this.convert(this, { e, scope, output, wanted })
    this.busy.delete(key)
    if (value) this.made.set(key, value)
    return value
  }
}
