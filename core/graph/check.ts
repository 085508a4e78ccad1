import { RESULT } from '../nodes'
import type { InputDeclaration, ParamDeclaration, ParamValue } from '../nodes/declare'
import { freshSeed } from './edit'
import { inputType, kindFor, outputType, paramOf } from './kinds'
import type { Look, LookNode } from './look'
import { CHANNEL_NAMES } from './types'
import { nodeOf, sourceOf } from './find'
import { converts, linksOf } from './ports'

export interface Finding {
  severity: 'error' | 'warning'
  /** The node it is about, if it is about one. */
  node?: string
  port?: string
  /** One sentence: what is wrong and what it means. */
  message: string
  /** Keys of the parts that it is about. */
  parts?: readonly string[]
  /** Settings of that node that mend it, in one of several ways. */
  fixes?: readonly { label: string; set: Readonly<Record<string, ParamValue>> }[]
}

export const titleOf = (node: LookNode): string => node.name ?? kindFor(node)?.title ?? node.kind

const isColor = (v: ParamValue): boolean => Array.isArray(v) && v.length === 3 && v.every(x => typeof x === 'number')

/** Does the stored setting of an open input suit it? A color input takes a number as gray. */
const fitsInput = (d: InputDeclaration, v: ParamValue): boolean =>
  typeof v === 'number' || (Array.isArray(d.default) && isColor(v))

/** Does a stored value suit its declaration? */
export function fits(d: ParamDeclaration, v: ParamValue): boolean {
  switch (d.type) {
    case 'number':
      return typeof v === 'number' && v >= d.min && v <= d.max
    case 'seed':
      return typeof v === 'number' && Number.isInteger(v) && v >= 0 && v < 2 ** 24
    case 'component':
      return typeof v === 'number' && Number.isInteger(v) && v >= 0 && v < 4
    case 'color':
      return isColor(v)
    case 'choice':
      return d.options.some(o => o.value === v)
    case 'toggle':
      return typeof v === 'boolean'
    case 'map':
    case 'set':
    case 'port':
    case 'picture':
      return typeof v === 'string'
    case 'channels':
      return Array.isArray(v) && v.every(x => typeof x === 'string' && (CHANNEL_NAMES as string[]).includes(x))
    case 'pins':
      return Array.isArray(v) && v.every(x => typeof x === 'object' && 'part' in x)
    case 'curve':
      return Array.isArray(v) && v.length > 1 && v.every(x => typeof x === 'object' && 'x' in x)
    case 'palette':
    case 'stops':
      return Array.isArray(v) && v.length > 0 && v.every(x => typeof x === 'object' && 'at' in x)
  }
}

/** The name among `names` with the smallest edit distance (Levenshtein), if it is near enough to be a slip. */
export function nearest(name: string, names: readonly string[]): string | undefined {
  const distance = (a: string, b: string) => {
    let row = Array.from({ length: b.length + 1 }, (_, i) => i)
    for (let i = 1; i <= a.length; i++) {
      const next = [i]
      for (let j = 1; j <= b.length; j++)
        next[j] = Math.min(next[j - 1]! + 1, row[j]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1))
      row = next
    }
    return row[b.length]!
  }
  const [best] = names.map(n => ({ n, d: distance(name.toLowerCase(), n.toLowerCase()) })).sort((x, y) => x.d - y.d)
  return best && best.d <= Math.max(2, name.length / 2) ? best.n : undefined
}

/** How a name that is not there is spoken of, and one that is not chosen. */
const NAMED: Partial<Record<ParamDeclaration['type'], [missing: string, open: string]>> = {
  map: ['The mesh has no vertex map', 'map'],
  set: ['The project has no part set', 'part set'],
  picture: ['The project has no picture', 'picture'],
}

/** The settings that tell two patterns or draws of one seed apart. */
const SCALES = ['size', 'level', 'pattern', 'sits', 'across', 'plane', 'width'] as const

/** What there is to be named; what is left out is not checked. */
interface Known {
  maps?: readonly string[]
  sets?: readonly string[]
  pictures?: readonly string[]
}

/** Finds are said here. */
class Findings {
  readonly found: Finding[] = []

  error(message: string, node?: string, port?: string): void {
    this.found.push({ severity: 'error', message, node, port })
  }
  warn(message: string, node?: string, port?: string, fix?: NonNullable<Finding['fixes']>[number]): void {
    this.found.push({ severity: 'warning', message, node, port, ...(fix && { fixes: [fix] }) })
  }
}

/**
 * What is wrong with a look: unknown kinds and ports, types that do not fit, loops and unsuitable values are errors;
 * missing inputs, unknown vertex maps, patterns that are the same one twice and nodes that reach no result are
 * warnings.
 */
export function check(look: Look, known: Known = {}): Finding[] {
  const say = new Findings()
  const results = look.nodes.filter(n => n.kind === RESULT)
  if (results.length === 0) say.error('The look has no Result, so it shows nothing.')
  for (const extra of results.slice(1)) say.error('The look has a second Result; only one can count.', extra.id)
  for (const node of look.nodes) {
    const kind = kindFor(node)
    if (!kind) {
      say.error(`"${node.kind}" is not a node kind of this version, so the node does nothing.`, node.id)
      continue
    }
    checkValues(node, kind, say)
    if (node.off) continue
    checkInputs(look, node, kind, say)
    checkNames(node, kind, known, say)
  }
  checkSeeds(look, say)
  checkWires(look, say)
  checkWays(look, results[0], say)
  return say.found
}

type Kind = NonNullable<ReturnType<typeof kindFor>>

function checkValues(node: LookNode, kind: Kind, say: Findings): void {
  for (const [name, value] of Object.entries(node.params)) {
    const param = kind.params[name]
    const input = kind.inputs[name]
    if (!param && !input) say.warn(`${titleOf(node)} has no setting "${name}"; it is ignored.`, node.id)
    else if (!(param ? fits(param, value) : fitsInput(input!, value)))
      say.error(`${titleOf(node)}: the value of ${(param ?? input)!.title} does not suit it.`, node.id, name)
  }
}

function checkInputs(look: Look, node: LookNode, kind: Kind, say: Findings): void {
  for (const [name, input] of Object.entries(kind.inputs)) {
    if (!input.needed || sourceOf(look, { node: node.id, port: name })) continue
    const then = input.missing ?? 'It uses its own setting everywhere.'
    say.warn(`Nothing is connected to ${input.title} of ${titleOf(node)}. ${then}`, node.id, name)
  }
}

/** Maps, part sets and pictures that are named. */
function checkNames(node: LookNode, kind: Kind, known: Known, say: Findings): void {
  const lists: Partial<Record<ParamDeclaration['type'], readonly string[]>> = {
    map: known.maps,
    set: known.sets,
    picture: known.pictures,
  }
  for (const [name, param] of Object.entries(kind.params)) {
    const names = lists[param.type]
    if (!names) continue
    const applies = param.when?.(
      other => paramOf(node, other),
      () => true,
    )
    if (applies === false) continue
    const chosen = paramOf(node, name) as string
    if (!chosen) {
      if ('optional' in param && param.optional) continue
      say.warn(`${titleOf(node)} has no ${NAMED[param.type]?.[1]} chosen, so it is 0 everywhere.`, node.id, name)
    } else if (!names.includes(chosen)) {
      const near = nearest(chosen, names)
      say.warn(
        `${NAMED[param.type]?.[0]} "${chosen}", so it is 0 everywhere.${near ? ` Did you mean "${near}"?` : ''}`,
        node.id,
        name,
        near ? { label: `Use "${near}"`, set: { [name]: near } } : undefined,
      )
    }
  }
}

/** Patterns and draws of one kind, seed and scale are the same one twice. */
function checkSeeds(look: Look, say: Findings): void {
  const drawn = new Map<string, LookNode>()
  for (const node of look.nodes) {
    if (node.recipe || node.off) continue
    const kind = kindFor(node)
    const seed = Object.entries(kind?.params ?? {}).find(([, p]) => p.type === 'seed')?.[0]
    if (!seed) continue
    const settings = [seed, ...SCALES].map(name => kind!.params[name] && paramOf(node, name))
    const same = JSON.stringify([node.kind, ...settings])
    const twin = drawn.get(same)
    if (!twin) {
      drawn.set(same, node)
      continue
    }
    say.warn(
      `${titleOf(node)} has the seed of ${titleOf(twin)}, so the two lie exactly over one another.`,
      node.id,
      seed,
      { label: 'Another seed', set: { [seed]: freshSeed(look) } },
    )
  }
}

function checkWires(look: Look, say: Findings): void {
  for (const { from, to } of look.wires) {
    const source = nodeOf(look, from.node)
    const target = nodeOf(look, to.node)
    const out = source && kindFor(source)?.outputs[from.port]
    const into = target && kindFor(target)?.inputs[to.port]
    if (!source || !target || !kindFor(source) || !kindFor(target)) continue
    if (!out) say.error(`${titleOf(source)} has no output "${from.port}".`, source.id)
    else if (!into) say.error(`${titleOf(target)} has no input "${to.port}".`, target.id)
    else if (!converts(outputType(source, out), inputType(target, into))) {
      const types = `a ${inputType(target, into)}, not a ${outputType(source, out)}`
      say.error(`${into.title} of ${titleOf(target)} takes ${types}.`, target.id, to.port)
    }
  }
}

/** Loops, and nodes that lead to no result. */
function checkWays(look: Look, result: LookNode | undefined, say: Findings): void {
  const order = new Set(inOrder(look).map(n => n.id))
  const leads = result && feeding(look, result.id)
  for (const node of look.nodes) {
    if (!order.has(node.id)) say.error(`${titleOf(node)} is part of a loop, so it has no value.`, node.id)
    else if (leads && kindFor(node) && node.kind !== RESULT && !leads.has(node.id))
      say.warn(`${titleOf(node)} does not lead to the Result, so it changes nothing.`, node.id)
  }
}

/** The nodes from which wires lead to `goal`, and the goal itself. */
function feeding(look: Look, goal: string): Set<string> {
  const before = new Map<string, string[]>()
  for (const w of linksOf(look)) before.set(w.to.node, [...(before.get(w.to.node) ?? []), w.from.node])
  const seen = new Set([goal])
  for (const id of seen) for (const from of before.get(id) ?? []) seen.add(from)
  return seen
}

/** The nodes, each after those that feed it. Nodes on a loop, and all they feed, are left out. */
export function inOrder(look: Look): LookNode[] {
  const waiting = new Map(look.nodes.map(n => [n.id, 0]))
  const links = linksOf(look)
  for (const w of links) waiting.set(w.to.node, (waiting.get(w.to.node) ?? 0) + 1)
  const ready = look.nodes.filter(n => waiting.get(n.id) === 0)
  const done: LookNode[] = []
  for (let node = ready.shift(); node; node = ready.shift()) {
    done.push(node)
    for (const w of links) {
      if (w.from.node !== node.id) continue
      const left = waiting.get(w.to.node)! - 1
      waiting.set(w.to.node, left)
      const next = left === 0 && nodeOf(look, w.to.node)
      if (next) ready.push(next)
    }
  }
  return done
}
