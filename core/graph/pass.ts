import { kindFor, inputType, outputType } from './kinds'
import type { Look, LookNode } from './look'
import { nodeOf, sourceOf } from './find'
import { converts, type Port } from './ports'

/** Inputs that a node changes rather than mixes in, best first: what comes through where the node is switched off. */
const MAIN = ['below', 'rest', 'value', 'color', 'a'] as const

/** The input that takes the place of an output where a node is switched off or taken out; undefined where none fits. */
export function passed(node: LookNode, output: string): string | undefined {
  const kind = kindFor(node)
  const out = kind?.outputs[output]
  if (!kind || !out) return undefined
  const type = outputType(node, out)
  const same = Object.keys(kind.inputs).filter(name => inputType(node, kind.inputs[name]!) === type)
  return MAIN.find(name => same.includes(name)) ?? same[0]
}

/** The finish that a node lays something over, and the output with something over it: what makes a node a step. */
export function finishThrough(node: LookNode): { input: string; output: string } | undefined {
  const kind = kindFor(node)
  for (const [output, d] of Object.entries(kind?.outputs ?? {})) {
    const input = outputType(node, d) === 'finish' ? passed(node, output) : undefined
    if (input) return { input, output }
  }
  return undefined
}

/** The output with a finish that a node makes by itself, out of no other: what a look can begin with. */
export function finishMade(node: LookNode): string | undefined {
  const kind = kindFor(node)
  if (Object.values(kind?.inputs ?? {}).some(d => inputType(node, d) === 'finish')) return undefined
  return Object.entries(kind?.outputs ?? {}).find(([, d]) => outputType(node, d) === 'finish')?.[0]
}

/** Switches nodes off, so that what comes in passes through, or on again. The result stays on. */
export function switchNodes(look: Look, ids: readonly string[], off: boolean): Look {
  const change = look.nodes.filter(n => ids.includes(n.id) && n.kind !== 'result' && Boolean(n.off) !== off)
  if (!change.length) return look
  return {
    ...look,
    nodes: look.nodes.map(n => {
      if (!change.includes(n)) return n
      const { off: _, ...rest } = n
      return off ? { ...rest, off } : rest
    }),
  }
}

/**
 * The ports between which wires run once some nodes are taken out: each consumer with what came into the node before.
 */
export function healed(look: Look, gone: ReadonlySet<string>): Look['wires'] {
  return look.wires.flatMap(w => {
    if (gone.has(w.to.node)) return []
    let from: Port | undefined = w.from
    for (let i = 0; from && gone.has(from.node) && i <= gone.size; i++) {
      const node = nodeOf(look, from.node)
      const input: string | undefined = node && passed(node, from.port)
      from = input ? sourceOf(look, { node: from.node, port: input }) : undefined
    }
    if (!from || gone.has(from.node)) return []
    if (from === w.from) return [w]
    const source = nodeOf(look, from.node)!
    const target = nodeOf(look, w.to.node)!
    const out = kindFor(source)?.outputs[from.port]
    const into = kindFor(target)?.inputs[w.to.port]
    return out && into && converts(outputType(source, out), inputType(target, into)) ? [{ from, to: w.to }] : []
  })
}
