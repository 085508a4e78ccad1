import { ECHO, splitPort } from './echo'
import { kindFor } from './kinds'
import type { Look, LookNode, Recipe, Wire } from './look'
import { passed } from './pass'
import type { Port } from './ports'

/** A look without recipes and echoes: what is evaluated. */
export interface Flat extends Look {
  /** Outputs of the look's own recipes and echoes, under `node/port`: where their values come from. */
  stands: ReadonlyMap<string, Port>
}

const known = new WeakMap<Look, Flat>()

/** Unfolds every recipe, its nodes under `recipe/node`, and follows every echo to the port it stands for. */
export function flatten(look: Look): Flat {
  let flat = known.get(look)
  if (!flat) known.set(look, (flat = make(look)))
  return flat
}

/**
 * The nodes of a recipe as they are with what its node sets from outside. The setting of an open input belongs to all
 * that it feeds.
 */
export function settledNodes(recipe: Recipe, params: LookNode['params']): LookNode[] {
  const own = new Map<string, LookNode['params']>()
  const put = (id: string, param: string, value: LookNode['params'][string] | undefined) => {
    if (value !== undefined) own.set(id, { ...own.get(id), [param]: value })
  }
  for (const s of recipe.settings) put(s.node, s.param, params[s.name])
  for (const i of recipe.inputs) for (const to of i.to) put(to.node, to.port, params[i.name])
  return own.size
    ? recipe.nodes.map(n => (own.has(n.id) ? { ...n, params: { ...n.params, ...own.get(n.id) } } : n))
    : recipe.nodes
}

function make(look: Look): Flat {
  if (!look.nodes.some(n => n.recipe || n.kind === ECHO || n.off)) return { ...look, stands: new Map() }
  const nodes: LookNode[] = []
  const wires: Wire[] = []
  const stands = new Map<string, Port>()
  const off: LookNode[] = []
  const visit = (part: Pick<Recipe, 'nodes' | 'wires'>, path: string): void => {
    for (const node of part.nodes) {
      const id = path + node.id
      if (node.off) off.push({ ...node, id })
      else if (node.kind === ECHO) {
        const [from, port] = splitPort(String(node.params.of ?? ''))
        stands.set(`${id}/out`, { node: path + from, port })
      } else if (node.recipe) {
        const { recipe } = node
        visit({ nodes: settledNodes(recipe, node.params), wires: recipe.wires }, `${id}/`)
        for (const o of recipe.outputs)
          stands.set(`${id}/${o.name}`, { node: `${id}/${o.from.node}`, port: o.from.port })
      } else nodes.push(path ? { ...node, id } : node)
    }
    for (const { from, to } of part.wires)
      wires.push({ from: { ...from, node: path + from.node }, to: { ...to, node: path + to.node } })
  }
  visit(look, '')
  const links = intoRecipes(wires, look)
  // What is switched off stands for what comes in.
  for (const node of off) {
    for (const output of Object.keys(kindFor(node)?.outputs ?? {})) {
      const input = node.kind === ECHO ? undefined : passed(node, output)
      stands.set(
        `${node.id}/${output}`,
        (input && links.find(w => w.to.node === node.id && w.to.port === input)?.from) || NOWHERE,
      )
    }
  }
  const silent = new Set(off.map(n => n.id))
  return {
    ...look,
    nodes,
    stands,
    wires: links.flatMap(({ from, to }) => {
      const source = silent.has(to.node) ? undefined : follow(from, stands)
      return source && source !== NOWHERE ? [{ from: source, to }] : []
    }),
  }
}

/** Wires with their targets followed into recipes, and into recipes inside those. */
function intoRecipes(wires: readonly Wire[], look: Look): Wire[] {
  const inputs = new Map<string, Port[]>()
  const index = (nodes: readonly LookNode[], path: string): void => {
    for (const n of nodes) {
      if (!n.recipe || n.off) continue
      for (const i of n.recipe.inputs)
        inputs.set(
          `${path}${n.id}/${i.name}`,
          i.to.map(t => ({ node: `${path}${n.id}/${t.node}`, port: t.port })),
        )
      index(n.recipe.nodes, `${path}${n.id}/`)
    }
  }
  index(look.nodes, '')
  const targets = (to: Port): Port[] => inputs.get(`${to.node}/${to.port}`)?.flatMap(targets) ?? [to]
  return wires.flatMap(({ from, to }) => targets(to).map(end => ({ from, to: end })))
}

/** The port that a chain of stand-ins ends at; undefined where it turns in a circle. */
export function follow(port: Port, stands: ReadonlyMap<string, Port>): Port | undefined {
  for (let i = 0; i <= stands.size; i++) {
    const next = stands.get(`${port.node}/${port.port}`)
    if (!next) return port
    port = next
  }
  return undefined
}

/** What nothing stands behind. */
const NOWHERE: Port = { node: '', port: '' }
