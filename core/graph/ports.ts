import { ECHO, splitPort } from './echo'
import { nodeOf } from './find'
import { inputType, kindFor, outputType } from './kinds'
import type { Look, Wire } from './look'
import type { PortType } from './types'

export interface Port {
  node: string
  port: string
}

export const samePort = (a: Port, b: Port): boolean => a.node === b.node && a.port === b.port

/** Which types pass into which, besides themselves: gray to color, luminance to value, one number to three. */
const CONVERTS: Partial<Record<PortType, PortType[]>> = { value: ['color', 'vector'], color: ['value'] }
export const converts = (from: PortType, to: PortType): boolean =>
  from === to || (CONVERTS[from]?.includes(to) ?? false)

/** Node kinds that turn one type into another: offered where a wire is refused. */
const BRIDGES: Partial<Record<`${PortType}>${PortType}`, { kind: string; input: string; output: string }>> = {
  'color>finish': { kind: 'finish', input: 'baseColor', output: 'finish' },
  'value>finish': { kind: 'finish', input: 'roughness', output: 'finish' },
}

export interface Refusal {
  reason: string
  bridge?: { kind: string; input: string; output: string }
}

/**
 * May a wire run from an output to an input? Answers null where it may; otherwise the reason, and a node kind that
 * would make it right where there is one. A wire already in the input does not matter: it would be replaced.
 */
export function refusal(look: Look, from: Port, to: Port): Refusal | null {
  const source = nodeOf(look, from.node)
  const target = nodeOf(look, to.node)
  const out = source && kindFor(source)?.outputs[from.port]
  const into = target && kindFor(target)?.inputs[to.port]
  if (!source || !out) return { reason: 'There is no such output.' }
  if (!target || !into) return { reason: 'There is no such input.' }
  const have = outputType(source, out)
  const want = inputType(target, into)
  if (!converts(have, want)) {
    const bridge = BRIDGES[`${have}>${want}`]
    return { reason: `${into.title} takes a ${want}; ${out.title} is a ${have}.`, ...(bridge && { bridge }) }
  }
  if (reaches(look, to.node, from.node)) return { reason: 'That would make a loop: the node would feed itself.' }
  return null
}

/** The wires, and what echoes are without one. */
export const linksOf = (look: Look): Wire[] => [
  ...look.wires,
  ...look.nodes.flatMap((n): Wire[] => {
    if (n.kind !== ECHO) return []
    const [node, port] = splitPort(String(n.params.of ?? ''))
    return nodeOf(look, node) ? [{ from: { node, port }, to: { node: n.id, port: 'of' } }] : []
  }),
]

/** Does anything of `start` arrive at `goal`? A node reaches itself. */
export function reaches(look: Look, start: string, goal: string): boolean {
  const next = new Map<string, string[]>()
  for (const w of linksOf(look)) next.set(w.from.node, [...(next.get(w.from.node) ?? []), w.to.node])
  const seen = new Set([start])
  const queue = [start]
  for (let id = queue.pop(); id !== undefined; id = queue.pop()) {
    if (id === goal) return true
    for (const n of next.get(id) ?? []) {
      if (!seen.has(n)) {
        seen.add(n)
        queue.push(n)
      }
    }
  }
  return false
}
