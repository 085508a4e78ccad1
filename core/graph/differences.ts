import { titleOf } from './check'
import { connect, disconnect, removeNodes, renameNode, setParam } from './edit'
import { kindFor } from './kinds'
import type { Look, LookNode, Wire } from './look'
import { switchNodes } from './pass'
import { nodeOf } from './find'

const same = (a: unknown, b: unknown): boolean => a === b || JSON.stringify(a) === JSON.stringify(b)

/** A setting as a few words; lists by how long they are. */
function inWords(value: unknown): string {
  if (value === undefined) return 'as it comes'
  if (typeof value === 'number') return String(Number.isInteger(value) ? value : Number(value.toPrecision(4)))
  if (typeof value === 'boolean') return value ? 'on' : 'off'
  if (typeof value === 'string') return value ? `"${value}"` : 'nothing'
  if (Array.isArray(value) && value.every(x => typeof x === 'number'))
    return `(${value.map(x => Number(x.toPrecision(3))).join(', ')})`
  return Array.isArray(value) ? `${value.length} entries` : 'something else'
}

/** Something that differs between two looks. */
export interface Difference {
  /** One sentence. */
  words: string
  /** The node that it is about, where that is there now. */
  node?: string
  /** Makes this one thing as it was before, and leaves the rest; absent where it is more than one thing. */
  back?(look: Look): Look
}

function settingsThatDiffer(before: LookNode, now: LookNode): Difference[] {
  const title = titleOf(now)
  const declared = kindFor(now)?.params ?? {}
  const names = new Set([...Object.keys(before.params), ...Object.keys(now.params)])
  const lines: Difference[] = []
  for (const name of names) {
    const [old, next] = [before.params[name], now.params[name]]
    if (same(old, next)) continue
    const label = declared[name]?.title ?? name
    const [from, to] = [inWords(old), inWords(next)]
    lines.push({
      words: from === to ? `${title}: ${label} changed.` : `${title}: ${label} from ${from} to ${to}.`,
      node: now.id,
      back: look => setParam(look, now.id, name, old),
    })
  }
  return lines
}

const wireKey = ({ from, to }: Wire): string => JSON.stringify([from.node, from.port, to.node, to.port])

function wireInWords(look: Look, { from, to }: Wire): string {
  const [source, target] = [nodeOf(look, from.node), nodeOf(look, to.node)]
  const output = source && kindFor(source)?.outputs[from.port]?.title
  const input = target && kindFor(target)?.inputs[to.port]?.title
  return `${source ? titleOf(source) : from.node} (${output ?? from.port}) to ${target ? titleOf(target) : to.node} (${input ?? to.port})`
}

function nodeDifferences(before: LookNode, now: LookNode): Difference[] {
  const title = titleOf(now)
  const node = now.id
  const lines = settingsThatDiffer(before, now)
  if (before.kind !== now.kind)
    lines.unshift({ words: `${titleOf(before)} became ${kindFor(now)?.title ?? now.kind}.`, node })
  else if (titleOf(before) !== title)
    lines.unshift({
      words: `${titleOf(before)} is called ${title}.`,
      node,
      back: look => renameNode(look, node, before.name ?? ''),
    })
  if (before.off !== now.off)
    lines.push({
      words: `${title} was switched ${now.off ? 'off' : 'on'}.`,
      node,
      back: look => switchNodes(look, [node], Boolean(before.off)),
    })
  if (!same(before.recipe, now.recipe)) lines.push({ words: `${title}: the recipe inside changed.`, node })
  return lines
}

function wireDifferences(before: Look, now: Look): Difference[] {
  const lines: Difference[] = []
  const [oldWires, newWires] = [new Set(before.wires.map(wireKey)), new Set(now.wires.map(wireKey))]
  const stays = (look: Look, { from, to }: Wire): boolean => Boolean(nodeOf(look, from.node) && nodeOf(look, to.node))
  for (const wire of now.wires)
    if (!oldWires.has(wireKey(wire)) && stays(before, wire))
      lines.push({
        words: `A wire was drawn from ${wireInWords(now, wire)}.`,
        node: wire.to.node,
        back: look => disconnect(look, [wire]),
      })
  for (const wire of before.wires)
    if (!newWires.has(wireKey(wire)) && stays(now, wire))
      lines.push({
        words: `The wire from ${wireInWords(before, wire)} was taken out.`,
        node: wire.to.node,
        back: look => connect(look, wire.from, wire.to),
      })
  return lines
}

/**
 * What changed from one look to another: nodes, settings and wires; where cards lie on the canvas does not count.
 * Nodes are the same where their ids are.
 */
export function differencesOf(before: Look, now: Look): Difference[] {
  const lines: Difference[] = []
  if (before.name !== now.name)
    lines.push({
      words: `The look was called "${before.name}" and is called "${now.name}".`,
      back: look => ({ ...look, name: before.name }),
    })
  for (const node of now.nodes)
    if (!nodeOf(before, node.id))
      lines.push({
        words: `${titleOf(node)} was added.`,
        node: node.id,
        back: look => removeNodes(look, [node.id]),
      })
  for (const node of before.nodes) if (!nodeOf(now, node.id)) lines.push({ words: `${titleOf(node)} was removed.` })
  for (const node of now.nodes) {
    const old = nodeOf(before, node.id)
    if (old) lines.push(...nodeDifferences(old, node))
  }
  lines.push(...wireDifferences(before, now))
  if (!same(before.variants ?? [], now.variants ?? [])) lines.push({ words: 'The variants changed.' })
  if (!same(before.exposed ?? [], now.exposed ?? [])) lines.push({ words: 'What is exposed for variants changed.' })
  if (!same(before.notes ?? [], now.notes ?? [])) lines.push({ words: 'Notes or frames changed.' })
  return lines
}

/** The same in words, one sentence each. */
export const differences = (before: Look, now: Look): string[] => differencesOf(before, now).map(d => d.words)
