import { kindOf, RESULT } from '../nodes'
import type { ParamValue } from '../nodes/declare'
import { kindFor, outputType } from './kinds'
import type { Look, LookNode, Wire } from './look'
import { splitPort } from './echo'
import { healed } from './pass'
import { nodeOf } from './find'
import { refusal, samePort, type Port } from './ports'
import type { PortType } from './types'

/**
 * Edits as pure functions: each takes a look and returns another, or the same one where there is nothing to do.
 * Nothing is changed in place, so history is a list of looks that share what did not change.
 */

/** An id that the look does not use: the kind and a number. */
export function freshId(look: Look, kind: string): string {
  const taken = new Set(look.nodes.map(n => n.id))
  for (let i = 1; ; i++) if (!taken.has(`${kind}${i}`)) return `${kind}${i}`
}

/**
 * The smallest seed above 0 that no node of the look uses, in recipes or out of them: two patterns never share one by
 * accident.
 */
export function freshSeed(look: Look): number {
  const used = new Set<unknown>()
  const visit = (nodes: readonly LookNode[]): void => {
    for (const n of nodes) {
      for (const [name, d] of Object.entries(kindFor(n)?.params ?? {})) if (d.type === 'seed') used.add(n.params[name])
      if (n.recipe) visit(n.recipe.nodes)
    }
  }
  visit(look.nodes)
  for (let seed = 1; ; seed++) if (!used.has(seed)) return seed
}

/** Adds a node and returns its id with the new look. Every seed of the node is a fresh one. */
export function addNode(
  look: Look,
  kind: string,
  at: [number, number],
  params: Record<string, ParamValue> = {},
): { look: Look; id: string } {
  const declaration = kindOf(kind)
  if (!declaration) throw new Error(`There is no node kind "${kind}".`)
  const existing = kind === RESULT && look.nodes.find(n => n.kind === RESULT)
  if (existing) return { look, id: existing.id }
  const id = freshId(look, kind)
  const seeds = Object.entries(declaration.params).filter(([name, p]) => p.type === 'seed' && !(name in params))
  const node: LookNode = {
    id,
    kind,
    at,
    params: { ...Object.fromEntries(seeds.map(([name]) => [name, freshSeed(look)])), ...params },
  }
  return { look: { ...look, nodes: [...look.nodes, node] }, id }
}

/** Removes nodes; a wire through them is healed where what came in suits what it went to. The result stays. */
export function removeNodes(look: Look, ids: Iterable<string>): Look {
  const gone = new Set([...ids].filter(id => nodeOf(look, id) && nodeOf(look, id)!.kind !== RESULT))
  if (!gone.size) return look
  return {
    ...look,
    nodes: look.nodes.filter(n => !gone.has(n.id)),
    wires: healed(look, gone),
  }
}

/**
 * Draws a wire, replacing the one that was in the input. A refused wire changes nothing: ask `refusal` for the reason.
 */
export function connect(look: Look, from: Port, to: Port): Look {
  if (refusal(look, from, to)) return look
  if (look.wires.some(w => samePort(w.to, to) && samePort(w.from, from))) return look
  return { ...look, wires: [...look.wires.filter(w => !samePort(w.to, to)), { from: plain(from), to: plain(to) }] }
}
/** A port without whatever else is known of it: a look has room for no more. */
const plain = ({ node, port }: Port): Port => ({ node, port })

/** Inserts the node that makes a refused wire right, between the two ports. */
export function connectThrough(look: Look, from: Port, to: Port): Look {
  const bridge = refusal(look, from, to)?.bridge
  const a = nodeOf(look, from.node)
  const b = nodeOf(look, to.node)
  if (!bridge || !a || !b) return look
  const added = addNode(look, bridge.kind, [(a.at[0] + b.at[0]) / 2, (a.at[1] + b.at[1]) / 2])
  return connect(
    connect(added.look, from, { node: added.id, port: bridge.input }),
    { node: added.id, port: bridge.output },
    to,
  )
}

export function disconnect(look: Look, wires: readonly Wire[]): Look {
  const left = look.wires.filter(w => !wires.some(x => samePort(x.from, w.from) && samePort(x.to, w.to)))
  return left.length === look.wires.length ? look : { ...look, wires: left }
}

const withNode = (look: Look, id: string, change: (n: LookNode) => LookNode): Look => ({
  ...look,
  nodes: look.nodes.map(n => (n.id === id ? change(n) : n)),
})

/**
 * Sets a parameter, or the setting of an open input. `undefined` puts the default back. Numbers are held inside the
 * declared limits. A choice that changes a port's type keeps every wire that still fits.
 */
export function setParam(look: Look, id: string, name: string, value: ParamValue | undefined): Look {
  const node = nodeOf(look, id)
  const kind = node && kindFor(node)
  const param = kind?.params[name]
  const shape = kind?.inputs[name]?.shape
  if (!node || !kind || (!param && !kind.inputs[name])) return look
  let kept = value
  if (typeof value === 'number' && (param?.type === 'number' || shape)) {
    const { min, max } = param?.type === 'number' ? param : shape!
    kept = Math.min(max, Math.max(min, param?.type === 'number' && param.whole ? Math.round(value) : value))
  }
  if (node.params[name] === kept) return look
  const next = withNode(look, id, n => {
    const { [name]: _old, ...rest } = n.params
    return {
      ...n,
      params:
        kept === undefined
          ? rest
          : {
              ...rest,
              [name]: kept,
              ...(param?.type === 'port' && { carries: carriedBy(look, String(kept)) ?? 'value' }),
            },
    }
  })
  if (param?.type !== 'choice' && param?.type !== 'port') return next
  return next.wires.reduce((l, w) => (w.from.node === id || w.to.node === id ? reconnect(l, w) : l), next)
}

/** Sets several parameters of a node. */
export const setParams = (look: Look, id: string, values: Readonly<Record<string, ParamValue>>): Look =>
  Object.entries(values).reduce((l, [name, value]) => setParam(l, id, name, value), look)

/** What runs through an output, as `node/port`. */
function carriedBy(look: Look, of: string): PortType | undefined {
  const [id, port] = splitPort(of)
  const node = nodeOf(look, id)
  const out = node && kindFor(node)?.outputs[port]
  return out && outputType(node, out)
}

/** Takes a wire away if it no longer fits. */
const reconnect = (look: Look, w: Wire): Look =>
  refusal({ ...look, wires: look.wires.filter(x => x !== w) }, w.from, w.to) ? disconnect(look, [w]) : look

export function moveNodes(look: Look, places: ReadonlyMap<string, readonly [number, number]>): Look {
  const moved = look.nodes.some(
    n => places.has(n.id) && (places.get(n.id)![0] !== n.at[0] || places.get(n.id)![1] !== n.at[1]),
  )
  if (!moved) return look
  return {
    ...look,
    nodes: look.nodes.map(n => (places.has(n.id) ? { ...n, at: [...places.get(n.id)!] as [number, number] } : n)),
  }
}

export function renameNode(look: Look, id: string, name: string): Look {
  const clean = name.trim().slice(0, 80)
  if ((nodeOf(look, id)?.name ?? '') === clean) return look
  return withNode(look, id, ({ name: _old, ...n }) => (clean ? { ...n, name: clean } : n))
}

/**
 * Copies nodes with the wires among them and the wires that come in from outside. Seeds stay, so the copies look alike.
 */
export function duplicateNodes(
  look: Look,
  ids: readonly string[],
  by: readonly [number, number] = [30, 30],
): { look: Look; ids: string[] } {
  const renamed = new Map<string, string>()
  let next = look
  for (const id of ids) {
    const node = nodeOf(look, id)
    if (!node || node.kind === RESULT) continue
    const copy = {
      ...node,
      id: freshId(next, node.kind),
      at: [node.at[0] + by[0], node.at[1] + by[1]] as [number, number],
    }
    next = { ...next, nodes: [...next.nodes, copy] }
    renamed.set(id, copy.id)
  }
  const wires = look.wires
    .filter(w => renamed.has(w.to.node))
    .map(w => ({
      from: { ...w.from, node: renamed.get(w.from.node) ?? w.from.node },
      to: { ...w.to, node: renamed.get(w.to.node)! },
    }))
  return { look: renamed.size ? { ...next, wires: [...next.wires, ...wires] } : look, ids: [...renamed.values()] }
}
