import { titleOf } from './check'
import { kindFor } from './kinds'
import type { Look, LookNode, Wire } from './look'
import { nodeOf } from './ports'

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b)

/** A setting as a few words; lists by how long they are. */
function inWords(value: unknown): string {
  if (value === undefined) return 'as it comes'
  if (typeof value === 'number') return String(Number(value.toPrecision(4)))
  if (typeof value === 'boolean') return value ? 'on' : 'off'
  if (typeof value === 'string') return value ? `"${value}"` : 'nothing'
  if (Array.isArray(value) && value.every(x => typeof x === 'number'))
    return `(${value.map(x => Number(x.toPrecision(3))).join(', ')})`
  return Array.isArray(value) ? `${value.length} entries` : 'something else'
}

function settingsThatDiffer(before: LookNode, now: LookNode): string[] {
  const title = titleOf(now)
  const declared = kindFor(now)?.params ?? {}
  const names = new Set([...Object.keys(before.params), ...Object.keys(now.params)])
  const lines: string[] = []
  for (const name of names) {
    const [old, next] = [before.params[name], now.params[name]]
    if (same(old, next)) continue
    const label = declared[name]?.title ?? name
    const [from, to] = [inWords(old), inWords(next)]
    lines.push(from === to ? `${title}: ${label} changed.` : `${title}: ${label} from ${from} to ${to}.`)
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

function nodeDifferences(before: LookNode, now: LookNode): string[] {
  const title = titleOf(now)
  const lines = settingsThatDiffer(before, now)
  if (before.kind !== now.kind) lines.unshift(`${titleOf(before)} became ${kindFor(now)?.title ?? now.kind}.`)
  else if (titleOf(before) !== title) lines.unshift(`${titleOf(before)} is called ${title}.`)
  if (before.off !== now.off) lines.push(`${title} was switched ${now.off ? 'off' : 'on'}.`)
  if (!same(before.recipe, now.recipe)) lines.push(`${title}: the recipe inside changed.`)
  return lines
}

/**
 * What changed from one look to another, one sentence each: nodes, settings and wires; where cards lie on the canvas does not count.
 * Nodes are the same where their ids are.
 */
export function differences(before: Look, now: Look): string[] {
  const lines: string[] = []
  if (before.name !== now.name) lines.push(`The look was called "${before.name}" and is called "${now.name}".`)
  for (const node of now.nodes) if (!nodeOf(before, node.id)) lines.push(`${titleOf(node)} was added.`)
  for (const node of before.nodes) if (!nodeOf(now, node.id)) lines.push(`${titleOf(node)} was removed.`)
  for (const node of now.nodes) {
    const old = nodeOf(before, node.id)
    if (old) lines.push(...nodeDifferences(old, node))
  }
  const [oldWires, newWires] = [new Set(before.wires.map(wireKey)), new Set(now.wires.map(wireKey))]
  const stays = (look: Look, { from, to }: Wire): boolean => Boolean(nodeOf(look, from.node) && nodeOf(look, to.node))
  for (const wire of now.wires)
    if (!oldWires.has(wireKey(wire)) && stays(before, wire))
      lines.push(`A wire was drawn from ${wireInWords(now, wire)}.`)
  for (const wire of before.wires)
    if (!newWires.has(wireKey(wire)) && stays(now, wire))
      lines.push(`The wire from ${wireInWords(before, wire)} was taken out.`)
  if (!same(before.variants ?? [], now.variants ?? [])) lines.push('The variants changed.')
  if (!same(before.exposed ?? [], now.exposed ?? [])) lines.push('What is exposed for variants changed.')
  if (!same(before.notes ?? [], now.notes ?? [])) lines.push('Notes or frames changed.')
  return lines
}
