import { fits } from './check'
import { addNode, connect, disconnect, setParam } from './edit'
import { inputType, kindFor, outputType } from './kinds'
import type { Look, LookNode, Wire } from './look'
import { finishThrough, passed } from './pass'
import { nodeOf } from './find'
import { converts, reaches, type Port } from './ports'

/**
 * The first output of a node that an input takes, and the first input that takes an output: where a wire would go by
 * itself.
 */
export function fittingOutput(node: LookNode, target: LookNode, input: string): string | undefined {
  const kind = kindFor(node)
  const want = kindFor(target)?.inputs[input]
  return (
    want &&
    Object.keys(kind?.outputs ?? {}).find(name =>
      converts(outputType(node, kind!.outputs[name]!), inputType(target, want)),
    )
  )
}
export function fittingInput(node: LookNode, source: LookNode, output: string): string | undefined {
  const kind = kindFor(node)
  const have = kindFor(source)?.outputs[output]
  if (!kind || !have) return undefined
  const type = outputType(source, have)
  const fit = Object.keys(kind.inputs).filter(name => converts(type, inputType(node, kind.inputs[name]!)))
  const main = Object.keys(kind.outputs).map(name => passed(node, name))
  return fit.find(name => main.includes(name)) ?? fit[0]
}

/**
 * Puts a node into a wire: what came through goes through it. The look as it was where the node does not fit, or would
 * feed itself.
 */
export function putInto(look: Look, id: string, wire: Wire): Look {
  const node = nodeOf(look, id)
  const source = nodeOf(look, wire.from.node)
  const target = nodeOf(look, wire.to.node)
  if (!node || !source || !target || node === source || node === target || !look.wires.some(w => samePlace(w, wire)))
    return look
  const through = finishThrough(node)
  const finishes =
    through &&
    kindFor(source)?.outputs[wire.from.port] &&
    outputType(source, kindFor(source)!.outputs[wire.from.port]!) === 'finish'
  const input = finishes ? through.input : fittingInput(node, source, wire.from.port)
  const output = finishes ? through.output : fittingOutput(node, target, wire.to.port)
  if (!input || !output) return look
  const open = disconnect(look, [wire])
  if (reaches(open, id, source.id) || reaches(open, target.id, id)) return look
  return connect(connect(open, wire.from, { node: id, port: input }), { node: id, port: output }, wire.to)
}
const samePlace = (a: Wire, b: Wire): boolean =>
  a.from.node === b.from.node && a.from.port === b.from.port && a.to.node === b.to.node && a.to.port === b.to.port

/**
 * Makes a node another kind. Name, place, settings and wires that fit stay: those of the same name first, then in
 * order.
 */
export function swapKind(look: Look, id: string, kind: string): Look {
  const old = nodeOf(look, id)
  if (!old || old.kind === kind || old.kind === 'result' || kind === 'result' || old.recipe) return look
  const bare: Look = {
    ...look,
    nodes: look.nodes.filter(n => n !== old),
    wires: look.wires.filter(w => w.from.node !== id && w.to.node !== id),
  }
  const added = addNode(bare, kind, old.at)
  const declared = kindFor(nodeOf(added.look, added.id)!)!
  let next: Look = {
    ...added.look,
    nodes: added.look.nodes.map(n =>
      n.id === added.id ? { ...n, ...(old.name && { name: old.name }), ...(old.off && { off: true as const }) } : n,
    ),
  }
  for (const [name, value] of Object.entries(old.params)) {
    const param = declared.params[name]
    const input = declared.inputs[name]
    if (param ? param.type === kindFor(old)?.params[name]?.type && fits(param, value) : input?.default !== undefined)
      next = setParam(next, added.id, name, value)
  }
  const node = (): LookNode => nodeOf(next, added.id)!
  for (const w of look.wires.filter(w => w.to.node === id && w.from.node !== id)) {
    const same =
      declared.inputs[w.to.port] &&
      converts(
        outputType(nodeOf(look, w.from.node)!, kindFor(nodeOf(look, w.from.node)!)!.outputs[w.from.port]!),
        inputType(node(), declared.inputs[w.to.port]!),
      )
    const free = Object.keys(declared.inputs).filter(
      name => !next.wires.some(x => x.to.node === added.id && x.to.port === name),
    )
    const port = same ? w.to.port : free.find(name => connect(next, w.from, { node: added.id, port: name }) !== next)
    if (port) next = connect(next, w.from, { node: added.id, port })
  }
  for (const w of look.wires.filter(w => w.from.node === id && w.to.node !== id)) {
    const port = [w.from.port, ...Object.keys(declared.outputs)].find(
      name => declared.outputs[name] && connect(next, { node: added.id, port: name }, w.to) !== next,
    )
    if (port) next = connect(next, { node: added.id, port }, w.to)
  }
  // It goes by the id that it had, so that what speaks of it still does.
  const back = (p: Port): Port => (p.node === added.id ? { ...p, node: id } : p)
  return {
    ...next,
    nodes: look.nodes.map(n => (n === old ? { ...node(), id } : n)),
    wires: next.wires.map(w => ({ from: back(w.from), to: back(w.to) })),
  }
}

/** What nodes hang on an output alone: they serve nothing else, and go or are copied with it. */
export function servants(look: Look, id: string, keep: readonly Port[] = []): string[] {
  const mine = new Set([id])
  const kept = new Set(keep.map(p => p.node))
  for (let grown = true; grown;) {
    grown = false
    for (const n of look.nodes) {
      if (mine.has(n.id) || kept.has(n.id) || n.kind === 'result') continue
      const out = look.wires.filter(w => w.from.node === n.id)
      if (
        out.length &&
        out.every(w => mine.has(w.to.node)) &&
        !look.nodes.some(e => e.kind === 'echo' && String(e.params.of ?? '').startsWith(`${n.id}/`))
      ) {
        mine.add(n.id)
        grown = true
      }
    }
  }
  return [...mine]
}

export type Edge = 'left' | 'middle' | 'right' | 'top' | 'center' | 'bottom'
export type Sizes = (id: string) => { width: number; height: number }
type Places = Map<string, [number, number]>

/** Where in the box an edge or a middle is, from its upper left corner. */
const SHARE_OF_BOX: Record<Edge, number> = { left: 0, top: 0, right: 1, bottom: 1, middle: 0.5, center: 0.5 }

/** Places that line nodes up along an edge or a middle of the box around them. */
export function aligned(nodes: readonly LookNode[], edge: Edge, sizes: Sizes): Places {
  const axis = edge === 'left' || edge === 'middle' || edge === 'right' ? 0 : 1
  const share = SHARE_OF_BOX[edge]
  const long = (n: LookNode) => (axis ? sizes(n.id).height : sizes(n.id).width)
  const low = Math.min(...nodes.map(n => n.at[axis]))
  const high = Math.max(...nodes.map(n => n.at[axis] + long(n)))
  return new Map(
    nodes.map(n => {
      const at: [number, number] = [...n.at]
      at[axis] = Math.round(low + (high - low) * share - long(n) * share) + 0
      return [n.id, at]
    }),
  )
}

/** Places with even gaps between neighbors; the outermost two stay. */
export function distributed(nodes: readonly LookNode[], axis: 0 | 1, sizes: Sizes): Places {
  const order = [...nodes].sort((a, b) => a.at[axis] - b.at[axis])
  const long = (n: LookNode) => (axis ? sizes(n.id).height : sizes(n.id).width)
  if (order.length < 3) return new Map()
  const first = order[0]!
  const last = order.at(-1)!
  const room = last.at[axis] - first.at[axis] - order.slice(0, -1).reduce((s, n) => s + long(n), 0)
  const gap = room / (order.length - 1)
  let at = first.at[axis]
  return new Map(
    order.map(n => {
      const place: [number, number] = [...n.at]
      place[axis] = Math.round(at) + 0
      at += long(n) + gap
      return [n.id, place]
    }),
  )
}
