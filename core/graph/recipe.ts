import { RESULT } from '../nodes'
import type { ParamValue } from '../nodes/declare'
import { addNode, connect, disconnect, freshId, freshSeed, setParam } from './edit'
import { ECHO, splitPort } from './echo'
import { settledNodes } from './flatten'
import { kindFor, paramOf } from './kinds'
import { nodeOf } from './find'
import { type Port } from './ports'
import type { Look, LookNode, Recipe, Wire } from './look'

const portKey = (p: Port): string => `${p.node}/${p.port}`

/** What a fold takes in, and how the wires of the page lie to it. */
interface Fold {
  look: Look
  /** Ids of what was chosen, without the result. */
  inside: ReadonlySet<string>
  /** What becomes of the recipe: all of it but echoes of something outside. */
  nodes: readonly LookNode[]
  /** Where a wire comes from; an echo of something outside is that itself. */
  sourceOf: (w: Wire) => Port
  isWithin: (p: Port) => boolean
}

/**
 * Folds nodes into one. Wires that come in from outside become its inputs, one for each source; outputs that are used
 * outside, or nowhere, become its outputs. The result stays out of it.
 * @returns the look and the id of the new node; the look as it was where there is nothing to fold
 */
export function foldNodes(look: Look, ids: readonly string[], title: string): { look: Look; id?: string } {
  const fold = foldOf(look, ids)
  const { nodes, sourceOf, isWithin } = fold
  if (!nodes.length) return { look }
  const taken = new Set<string>()
  const name = (wish: string): string => {
    let free = wish
    for (let i = 2; taken.has(free); i++) free = `${wish}${i}`
    taken.add(free)
    return free
  }
  const inputs = foldInputs(fold, name)
  const inner = look.wires.filter(w => isWithin(sourceOf(w)) && isWithin(w.to))
  const outputs = foldOutputs(fold, inner, name)
  const recipe: Recipe = {
    title: title.trim() || 'Recipe',
    help: '',
    nodes: [...nodes],
    wires: inner.map(w => ({ from: sourceOf(w), to: w.to })),
    inputs: inputs.map(i => i.input),
    settings: [],
    outputs,
  }
  const middle = [0, 1].map(k => Math.round(nodes.reduce((s, n) => s + n.at[k]!, 0) / nodes.length)) as [number, number]
  const node: LookNode = { id: freshId(look, 'recipe'), kind: 'recipe', at: middle, params: {}, recipe }
  return { look: inItsPlace(fold, node, inputs), id: node.id }
}

function foldOf(look: Look, ids: readonly string[]): Fold {
  const inside = new Set(ids.filter(id => nodeOf(look, id) && nodeOf(look, id)!.kind !== RESULT))
  const strays = new Map<string, Port>()
  for (const id of inside) {
    const node = nodeOf(look, id)!
    const [from, port] = splitPort(String(node.params.of ?? ''))
    if (node.kind === ECHO && !inside.has(from) && nodeOf(look, from)) strays.set(id, { node: from, port })
  }
  return {
    look,
    inside,
    nodes: look.nodes.filter(n => inside.has(n.id) && !strays.has(n.id)),
    sourceOf: w => strays.get(w.from.node) ?? w.from,
    isWithin: p => inside.has(p.node) && !strays.has(p.node),
  }
}

const titled = (look: Look, port: Port, side: 'inputs' | 'outputs'): string =>
  kindFor(nodeOf(look, port.node)!)?.[side][port.port]?.title ?? port.port

/** An input for each source outside. */
function foldInputs(
  { look, sourceOf, isWithin }: Fold,
  name: (wish: string) => string,
): { source: Port; input: Recipe['inputs'][number] }[] {
  const sources = new Map<string, { source: Port; to: Port[] }>()
  for (const w of look.wires) {
    const source = sourceOf(w)
    if (isWithin(source) || !isWithin(w.to)) continue
    const entry = sources.get(portKey(source)) ?? { source, to: [] }
    entry.to.push(w.to)
    sources.set(portKey(source), entry)
  }
  return [...sources.values()].map(({ source, to }) => ({
    source,
    input: { name: name(to[0]!.port), title: titled(look, to[0]!, 'inputs'), to },
  }))
}

/** The outputs that are used outside; where none is, those that are not used inside. */
function foldOutputs(
  { look, inside, nodes, sourceOf, isWithin }: Fold,
  inner: readonly Wire[],
  name: (wish: string) => string,
): Recipe['outputs'] {
  const echoes = look.nodes.filter(n => n.kind === ECHO && !inside.has(n.id))
  const leaving = look.wires.filter(w => isWithin(sourceOf(w)) && !isWithin(w.to))
  const used = new Set([...leaving.map(w => portKey(sourceOf(w))), ...echoes.map(n => String(n.params.of ?? ''))])
  const feeds = new Set(inner.map(w => portKey(w.from)))
  return nodes
    .flatMap(n => Object.keys(kindFor(n)?.outputs ?? {}).map((port): Port => ({ node: n.id, port })))
    .filter(p => used.has(portKey(p)) || (!used.size && !feeds.has(portKey(p))))
    .slice(0, 16)
    .map(from => ({ name: name(from.port), title: titled(look, from, 'outputs'), from }))
}

/** The page with a recipe in the place of what it was folded from. */
function inItsPlace(
  { look, inside, sourceOf, isWithin }: Fold,
  node: LookNode,
  inputs: ReturnType<typeof foldInputs>,
): Look {
  const { id } = node
  const outOf = new Map(node.recipe!.outputs.map(o => [portKey(o.from), o.name]))
  const leaving = look.wires.filter(w => isWithin(sourceOf(w)) && !inside.has(w.to.node))
  const wires = [
    ...look.wires.filter(w => !inside.has(w.from.node) && !inside.has(w.to.node)),
    ...inputs.map(({ source, input }) => ({ from: source, to: { node: id, port: input.name } })),
    ...leaving.map(w => ({ from: { node: id, port: outOf.get(portKey(sourceOf(w)))! }, to: w.to })),
  ]
  const others = look.nodes
    .filter(n => !inside.has(n.id))
    .map(n => {
      const out = n.kind === ECHO ? outOf.get(String(n.params.of)) : undefined
      return out === undefined ? n : { ...n, params: { ...n.params, of: `${id}/${out}` } }
    })
  return { ...look, nodes: [...others, node], wires }
}

/** Puts what is in a recipe back onto the page, in its place. */
export function unfoldNode(look: Look, id: string): { look: Look; ids: string[] } {
  const node = nodeOf(look, id)
  if (!node?.recipe) return { look, ids: [] }
  const { wires, inputs, outputs } = node.recipe
  const nodes = settledNodes(node.recipe, node.params)
  const middle = [0, 1].map(k => nodes.reduce((s, n) => s + n.at[k]!, 0) / nodes.length)
  const names = new Map<string, string>()
  let rest: Look = { ...look, nodes: look.nodes.filter(n => n.id !== id) }
  for (const n of nodes) {
    const fresh = freshId(rest, n.kind)
    names.set(n.id, fresh)
    rest = {
      ...rest,
      nodes: [
        ...rest.nodes,
        {
          ...n,
          id: fresh,
          at: [Math.round(n.at[0] - middle[0]! + node.at[0]), Math.round(n.at[1] - middle[1]! + node.at[1])],
        },
      ],
    }
  }
  const moved = (p: Port): Port => ({ ...p, node: names.get(p.node)! })
  const out = new Map(outputs.map(o => [o.name, moved(o.from)]))
  const echoOf = (of: string): string => {
    const [from, port] = splitPort(of)
    if (from === id && out.has(port)) return portKey(out.get(port)!)
    return of
  }
  const innerEcho = (n: LookNode): LookNode => {
    const [from, port] = splitPort(String(n.params.of ?? ''))
    return n.kind === ECHO && names.has(from) ? { ...n, params: { ...n.params, of: `${names.get(from)}/${port}` } } : n
  }
  const fresh = new Set(names.values())
  return {
    look: {
      ...rest,
      nodes: rest.nodes.map(n => {
        if (fresh.has(n.id)) return innerEcho(n)
        if (n.kind !== ECHO) return n
        return { ...n, params: { ...n.params, of: echoOf(String(n.params.of ?? '')) } }
      }),
      wires: [
        ...look.wires.flatMap((w): Wire[] => {
          const from = w.from.node === id ? out.get(w.from.port) : w.from
          if (!from) return []
          if (w.to.node !== id) return [{ from, to: w.to }]
          return (inputs.find(i => i.name === w.to.port)?.to ?? []).map(to => ({ from, to: moved(to) }))
        }),
        ...wires.map(w => ({ from: moved(w.from), to: moved(w.to) })),
      ],
    },
    ids: [...fresh],
  }
}

/**
 * Changes the seeds of a node and of all inside it. `change` gets the seed that is stored, and the one that counts
 * where none is; undefined leaves it.
 */
export function changeSeeds(
  node: LookNode,
  change: (stored: ParamValue | undefined, counts: number) => number | undefined,
): LookNode {
  const params = { ...node.params }
  for (const [name, d] of Object.entries(kindFor(node)?.params ?? {})) {
    const next = d.type === 'seed' ? change(node.params[name], Number(paramOf(node, name))) : undefined
    if (next !== undefined) params[name] = next
  }
  return {
    ...node,
    params,
    ...(node.recipe && { recipe: { ...node.recipe, nodes: node.recipe.nodes.map(n => changeSeeds(n, change)) } }),
  }
}

/** Whether a node, or one inside it, draws by a seed. */
export const hasSeed = (node: LookNode): boolean =>
  Object.values(kindFor(node)?.params ?? {}).some(d => d.type === 'seed') || Boolean(node.recipe?.nodes.some(hasSeed))

/**
 * A look with every seed moved by one number; 0 leaves it as it is. What shared a seed still does.
 * @param only ids of the nodes whose seeds are moved; all where it is left out
 */
export function reseed(look: Look, by: number, only?: ReadonlySet<string>): Look {
  if (by === 0) return look
  const moved = (stored: ParamValue | undefined): number | undefined =>
    typeof stored === 'number' ? (stored + by * 7919) % 2 ** 24 : undefined
  return { ...look, nodes: look.nodes.map(n => (!only || only.has(n.id) ? changeSeeds(n, moved) : n)) }
}

/** A recipe with seeds that no pattern of the look has; what shared a seed inside still does. */
function withFreshSeeds(look: Look, recipe: Recipe): Recipe {
  const given = new Map<number, number>()
  let next = freshSeed(look)
  const fresh = (_: ParamValue | undefined, old: number): number => {
    if (!given.has(old)) given.set(old, next++)
    return given.get(old)!
  }
  return { ...recipe, nodes: recipe.nodes.map(n => changeSeeds(n, fresh)) }
}

export function addRecipe(look: Look, recipe: Recipe, at: [number, number]): { look: Look; id: string } {
  const id = freshId(look, 'recipe')
  return {
    look: {
      ...look,
      nodes: [...look.nodes, { id, kind: 'recipe', at, params: {}, recipe: withFreshSeeds(look, recipe) }],
    },
    id,
  }
}

/** The recipe of a node with its settings taken in: what is kept in the library. */
export function recipeOf(node: LookNode): Recipe {
  return { ...node.recipe!, title: node.name ?? node.recipe!.title, nodes: settledNodes(node.recipe!, node.params) }
}

const changeRecipe = (look: Look, id: string, change: (recipe: Recipe) => Recipe): Look => ({
  ...look,
  nodes: look.nodes.map(n => (n.id === id && n.recipe ? { ...n, recipe: change(n.recipe) } : n)),
})

export const describeRecipe = (look: Look, id: string, help: string): Look =>
  changeRecipe(look, id, r => ({ ...r, help: help.slice(0, 400) }))

/** What inside a recipe can be set from outside: parameters, and settings of open inputs. */
export function settable(recipe: Recipe): { node: LookNode; param: string; title: string }[] {
  const wired = new Set([...recipe.wires.map(w => portKey(w.to)), ...recipe.inputs.flatMap(i => i.to.map(portKey))])
  return recipe.nodes.flatMap(node => {
    const kind = kindFor(node)
    return [
      ...Object.entries(kind?.params ?? {}),
      ...Object.entries(kind?.inputs ?? {}).filter(
        ([name, d]) => d.default !== undefined && !wired.has(`${node.id}/${name}`),
      ),
    ].map(([param, d]) => ({ node, param, title: d.title }))
  })
}

/** Shows a setting of a node inside on the recipe, or takes it away; its value stays what it was. */
export function exposeSetting(look: Look, id: string, inner: string, param: string, on: boolean): Look {
  const node = nodeOf(look, id)
  const recipe = node?.recipe
  const target = recipe?.nodes.find(n => n.id === inner)
  const old = recipe?.settings.find(s => s.node === inner && s.param === param)
  if (!node || !recipe || !target || Boolean(old) === on) return look
  if (old) {
    const { [old.name]: value, ...params } = node.params
    const kept = changeRecipe(look, id, r => ({
      ...r,
      settings: r.settings.filter(s => s !== old),
      nodes:
        value === undefined
          ? r.nodes
          : r.nodes.map(n => (n.id === inner ? { ...n, params: { ...n.params, [param]: value } } : n)),
    }))
    return { ...kept, nodes: kept.nodes.map(n => (n.id === id ? { ...n, params } : n)) }
  }
  const kind = kindFor(target)
  const own = kind?.params[param]?.title ?? kind?.inputs[param]?.title ?? param
  const nodeTitle = target.name ?? kind?.title ?? ''
  const names = new Set([...recipe.inputs, ...recipe.settings, ...recipe.outputs].map(x => x.name))
  const titles = new Set(recipe.settings.map(s => s.title))
  let name = param
  for (let i = 2; names.has(name); i++) name = `${param}${i}`
  const title = (titles.has(own) ? `${nodeTitle}: ${own}` : own).slice(0, 80)
  return changeRecipe(look, id, r => ({ ...r, settings: [...r.settings, { name, title, node: inner, param }] }))
}

/** Makes an echo of an output, beside a place. */
export function addEcho(look: Look, of: Port, at: [number, number]): { look: Look; id: string } {
  const source = nodeOf(look, of.node)
  if (!source || !kindFor(source)?.outputs[of.port]) return { look, id: '' }
  const added = addNode(look, ECHO, at)
  return { ...added, look: setParam(added.look, added.id, 'of', portKey(of)) }
}

/** Replaces a wire by an echo of its source beside its target. */
export function echoWire(look: Look, wire: Wire): Look {
  const target = nodeOf(look, wire.to.node)
  if (!target) return look
  const added = addEcho(look, wire.from, [target.at[0] - 190, target.at[1]])
  return added.id ? connect(disconnect(added.look, [wire]), { node: added.id, port: 'out' }, wire.to) : look
}
