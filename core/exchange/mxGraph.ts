import { plainName } from './names'
import { shortest } from './shortest'

/**
 * A value in a MaterialX document: a node of the graph, a setting of the definition that it stands in, or numbers.
 */
export type MxValue = NodeOutput | { setting: string } | number | readonly number[]
type NodeOutput = { node: string }
export type MxType =
  | 'float'
  | 'color3'
  | 'vector2'
  | 'vector3'
  | 'integer'
  | 'string'
  | 'filename'
  | 'boolean'
  | 'surfaceshader'
  | 'displacementshader'
type MxInput = { type: MxType; value: MxValue | string; space?: string }

export const escape = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('"', '&quot;').replaceAll('<', '&lt;').replaceAll('>', '&gt;')
const isNode = (value: MxInput['value']): value is NodeOutput => typeof value === 'object' && 'node' in value
/** A number as a document has it. */
function textOf(type: MxType, value: string | number | readonly number[]): string {
  if (typeof value === 'string') return value
  if (typeof value !== 'number') return value.map(shortest).join(', ')
  return type === 'integer' ? String(Math.round(value)) : shortest(value)
}

/** A node of a graph as it is collected: what it is called may change until the graph is written. */
interface MxNode {
  category: string
  type: MxType
  inputs: [name: string, input: MxInput][]
  /** The definition that it is of; the graph itself where there is none. */
  group: string
}

/** A part of a graph that becomes a definition of its own, used once. */
export interface MxGroup {
  title: string
  /** Numbers and colors that can be changed where it is used. */
  settings: readonly MxSetting[]
}
export interface MxSetting {
  name: string
  title: string
  value: number | readonly number[]
}

/** What a definition takes from outside and gives out: nodes of the graph, by the names of its inputs and outputs. */
interface Interface {
  inputs: Map<string, string>
  outputs: Map<string, string>
}

/** What the graph of a look is called. */
export const graphOf = (look: string): string => `NG_${plainName(look)}`

/**
 * Collects the nodes of a node graph. The same node is written once. Nodes of a group become a definition, which stands
 * in the graph as one node; a group that would take something that depends on itself is written as plain nodes.
 */
export class MxGraph {
  private readonly nodes = new Map<string, MxNode>()
  private readonly outputs: { name: string; type: MxType; from: NodeOutput }[] = []
  private readonly known = new Map<string, string>()
  private readonly titles = new Map<string, string>()
  private readonly taken = new Set<string>()
  private readonly groups = new Map<string, MxGroup>()
  /** What is written above the nodes, for people. */
  readonly comments: string[] = []
  /** Stands before the names of nodes that are called by what they do. */
  within = ''
  /** The group that nodes are made in; none where it is empty. */
  group = ''

  /** Makes a part of the graph a definition, where it has nodes. */
  define(id: string, group: MxGroup): void {
    this.groups.set(id, group)
  }

  private free(name: string): string {
    const plain = plainName(name)
    let free = plain
    for (let i = 2; this.taken.has(free); i++) free = `${plain}_${i}`
    this.taken.add(free)
    return free
  }

  node(category: string, type: MxType, inputs: Record<string, MxInput>, name?: string): { node: string } {
    const all = Object.entries(inputs)
    const { group } = this
    const key = JSON.stringify([group, category, type, all])
    const old = this.known.get(key)
    if (old) return { node: old }
    const own = `n${this.nodes.size}`
    this.known.set(key, own)
    this.nodes.set(own, { category, type, inputs: all, group })
    this.titles.set(own, this.free(name ?? `${this.within} ${category}`.trim()))
    return { node: own }
  }

  /** Calls a node otherwise than by what it does. */
  call(node: string, name: string): void {
    this.taken.delete(this.titles.get(node)!)
    this.titles.set(node, this.free(name))
  }

  /** An output of the graph; a constant becomes a node first, since an output takes nodes only. */
  output(name: string, type: MxType, value: Exclude<MxValue, { setting: string }>): { output: string } {
    const from = isNode(value) ? value : this.node('constant', type, { value: { type, value } })
    const own = this.free(name)
    this.outputs.push({ name: own, type, from })
    return { output: own }
  }

  /** Definitions, and the graph. @param name of the look, which stands in the names of them all */
  text(name: string): string[] {
    if (!this.nodes.size && !this.outputs.length) return []
    this.dissolveCircles()
    const faces = this.interfaces()
    const definitions = [...faces].map(([group, face]) => ({
      group,
      face,
      called: this.free(`${name} ${this.groups.get(group)!.title}`),
    }))
    const stands = new Map(definitions.map(d => [d.group, this.free(this.groups.get(d.group)!.title)]))
    const source = (from: NodeOutput): string => this.source(from, faces, stands)
    return [
      ...definitions.flatMap(({ group, face, called }) => this.definition(group, face, called)),
      `  <nodegraph name="${graphOf(name)}">`,
      // Two dashes would end a comment.
      ...this.comments.map(c => `    <!-- ${c.replaceAll('--', '- -')} -->`),
      ...this.nodesOf('').flatMap(node => this.nodeText(node, source)),
      ...definitions.flatMap(({ group, face, called }) => this.use(group, face, called, stands.get(group)!, source)),
      ...this.outputs.map(o => `    <output name="${o.name}" type="${o.type}" ${source(o.from)} />`),
      '  </nodegraph>',
    ]
  }

  private nodesOf(group: string): string[] {
    return [...this.nodes].filter(([, n]) => n.group === group).map(([id]) => id)
  }
  private feeding(node: string): string[] {
    return this.nodes.get(node)!.inputs.flatMap(([, { value }]) => (isNode(value) ? [value.node] : []))
  }

  /** Where a node is read from, outside of definitions. */
  private source(
    { node }: NodeOutput,
    faces: ReadonlyMap<string, Interface>,
    stands: ReadonlyMap<string, string>,
  ): string {
    const { group } = this.nodes.get(node)!
    if (!group) return `nodename="${this.titles.get(node)}"`
    return `nodename="${stands.get(group)}" output="${faces.get(group)!.outputs.get(node)}"`
  }

  private nodeText(node: string, source: (from: NodeOutput) => string): string[] {
    const { category, type, inputs } = this.nodes.get(node)!
    return [
      `    <${category} name="${this.titles.get(node)}" type="${type}">`,
      ...inputs.map(([name, input]) => inputText(name, input, source)),
      `    </${category}>`,
    ]
  }

  /** Groups between which values go in circles become plain nodes: definitions stand before what reads them. */
  private dissolveCircles(): void {
    const unitOf = (node: string): string => this.nodes.get(node)!.group || `node ${node}`
    const before = new Map<string, Set<string>>()
    const behind = new Map<string, Set<string>>()
    const link = (of: Map<string, Set<string>>, from: string, to: string): void => {
      of.set(from, (of.get(from) ?? new Set()).add(to))
    }
    for (const node of this.nodes.keys()) {
      for (const from of this.feeding(node)) {
        if (unitOf(from) === unitOf(node)) continue
        link(before, unitOf(node), unitOf(from))
        link(behind, unitOf(from), unitOf(node))
      }
    }
    const left = new Set([...this.nodes.keys()].map(unitOf))
    for (const side of [before, behind]) {
      const isFree = (unit: string): boolean => ![...(side.get(unit) ?? [])].some(u => left.has(u))
      for (let free = [...left].filter(isFree); free.length; free = [...left].filter(isFree))
        free.forEach(unit => left.delete(unit))
    }
    for (const node of this.nodes.values()) if (node.group && left.has(node.group)) this.dissolve(node)
  }

  /** Takes a node out of its group: settings are numbers outside of it. */
  private dissolve(node: MxNode): void {
    const { settings } = this.groups.get(node.group)!
    node.inputs = node.inputs.map(([name, input]) => {
      const { value } = input
      const setting = isSetting(value) ? settings.find(s => s.name === value.setting) : undefined
      return [name, setting ? { ...input, value: setting.value } : input]
    })
    node.group = ''
  }

  /** What the groups that have nodes take from outside, and what is read of them. */
  private interfaces(): Map<string, Interface> {
    const found = new Map<string, Interface>()
    for (const { group } of this.nodes.values())
      if (group && !found.has(group)) found.set(group, { inputs: new Map(), outputs: new Map() })
    const read = (node: string, by: string): void => {
      const { group } = this.nodes.get(node)!
      if (group === by) return
      if (by) found.get(by)!.inputs.set(node, `from_${this.titles.get(node)}`)
      if (group) this.giveOut(found.get(group)!, node)
    }
    for (const [node, { group }] of this.nodes) for (const from of this.feeding(node)) read(from, group)
    for (const { from } of this.outputs) read(from.node, '')
    return found
  }

  private giveOut({ outputs }: Interface, node: string): void {
    if (!outputs.has(node)) outputs.set(node, this.free(`${this.titles.get(node)} out`))
  }

  private definition(group: string, { inputs, outputs }: Interface, called: string): string[] {
    const { title, settings } = this.groups.get(group)!
    const typeOf = (node: string): MxType => this.nodes.get(node)!.type
    const inside = (from: NodeOutput): string =>
      inputs.has(from.node) ? `interfacename="${inputs.get(from.node)}"` : `nodename="${this.titles.get(from.node)}"`
    return [
      `  <nodedef name="ND_${called}" node="${called}" uiname="${escape(title)}">`,
      ...settings.map(s => `    ${settingText(s, ` uiname="${escape(s.title)}"`)}`),
      ...[...inputs].map(
        ([node, input]) => `    <input name="${input}" type="${typeOf(node)}" value="${nothing(typeOf(node))}" />`,
      ),
      ...[...outputs].map(([node, output]) => `    <output name="${output}" type="${typeOf(node)}" />`),
      '  </nodedef>',
      `  <nodegraph name="NG_${called}" nodedef="ND_${called}">`,
      ...this.nodesOf(group).flatMap(node => this.nodeText(node, inside)),
      ...[...outputs].map(
        ([node, output]) =>
          `    <output name="${output}" type="${typeOf(node)}" nodename="${this.titles.get(node)}" />`,
      ),
      '  </nodegraph>',
    ]
  }

  /** A definition as a node of the graph. */
  private use(
    group: string,
    { inputs, outputs }: Interface,
    category: string,
    name: string,
    source: (from: NodeOutput) => string,
  ): string[] {
    const [first] = outputs.keys()
    const type = outputs.size > 1 ? 'multioutput' : this.nodes.get(first!)!.type
    return [
      `    <${category} name="${name}" type="${type}">`,
      ...this.groups.get(group)!.settings.map(s => `      ${settingText(s)}`),
      ...[...inputs].map(
        ([node, input]) => `      <input name="${input}" type="${this.nodes.get(node)!.type}" ${source({ node })} />`,
      ),
      `    </${category}>`,
    ]
  }
}

const isSetting = (value: MxInput['value']): value is { setting: string } =>
  typeof value === 'object' && 'setting' in value

function settingText({ name, value }: MxSetting, more = ''): string {
  const type = typeof value === 'number' ? 'float' : 'color3'
  return `<input name="${name}" type="${type}" value="${textOf(type, value)}"${more} />`
}

const nothing = (type: MxType): string => (/3$/.test(type) ? '0, 0, 0' : '0')

function inputText(name: string, { type, value, space }: MxInput, source: (from: NodeOutput) => string): string {
  const wired = (of: MxInput['value']): string => {
    if (isNode(of)) return source(of)
    if (isSetting(of)) return `interfacename="${of.setting}"`
    return `value="${escape(textOf(type, of))}"`
  }
  return `      <input name="${name}" type="${type}" ${wired(value)}${space ? ` colorspace="${space}"` : ''} />`
}
