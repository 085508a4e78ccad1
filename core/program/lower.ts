import { inOrder } from '../graph/check'
import type { Look, LookNode } from '../graph/look'
import { inputType, nodeOf, paramOf } from '../graph/ports'
import { CHANNEL_NAMES, CHANNELS, type Channel, type Stop } from '../graph/types'
import { kindOf, RESULT } from '../nodes'
import type { FinishRefs, LowerContext, Lowered } from '../nodes/declare'
import { Builder } from './builder'
import { luminance } from './color'
import type { Domain, Instruction, ParamRef, Ref, Ref3 } from './ops'

/** A look as straight-line code. `outputs` holds what every output port of every node is, under `node/port`. */
export interface Program {
  code: readonly Instruction[]
  domains: readonly Domain[]
  outputs: ReadonlyMap<string, Lowered>
  /** Every channel of the result, with what shows where nothing sets it. */
  result: Record<Channel, Ref[]>
}

/** The vertex maps that a look may read: name and number of components (1 to 4). */
export type MapList = readonly { name: string, components: number }[]

/**
 * Lowers a look. Never fails: what the checks call an error (an unknown kind, a loop, a wire that does not fit) counts
 * as an open input.
 */
export function lower(look: Look, maps: MapList): Program {
  const b = new Builder()
  const outputs = new Map<string, Lowered>()
  const sizes = new Map(maps.map(m => [m.name, m.components]))
  const feed = new Map(look.wires.map(w => [`${w.to.node}/${w.to.port}`, w.from]))

  const arriving = (node: LookNode, input: string): Lowered | undefined => {
    const from = feed.get(`${node.id}/${input}`)
    return from && outputs.get(`${from.node}/${from.port}`)
  }
  const param = (node: LookNode, name: string, rest: Partial<ParamRef> = {}) => b.param({ node: node.id, param: name, ...rest })
  const rgbParam = (node: LookNode, name: string): Ref3 => [0, 1, 2].map(component => param(node, name, { component })) as Ref3

  const context = (node: LookNode): LowerContext => ({
    b,
    value(input) {
      const got = arriving(node, input)
      if (got?.type === 'value') return got.value
      if (got?.type === 'color') return luminance(b, got.value)
      return param(node, input)
    },
    color(input) {
      const got = arriving(node, input)
      if (got?.type === 'color') return got.value
      if (got?.type === 'value') return [got.value, got.value, got.value]
      return rgbParam(node, input)
    },
    finish(input) {
      const got = arriving(node, input)
      return got?.type === 'finish' ? got.value : {}
    },
    number: name => param(node, name),
    colorParam: name => rgbParam(node, name),
    stops: name => (paramOf(node, name) as Stop[]).map((_, stop) => ({
      at: param(node, name, { stop, component: 'at' }),
      color: [0, 1, 2].map(component => param(node, name, { stop, component })) as Ref3,
    })),
    choice: name => String(paramOf(node, name)),
    mapComponents: name => sizes.get(name),
  })

  for (const node of inOrder(look)) {
    const kind = kindOf(node.kind)
    if (!kind) continue
    for (const [port, value] of Object.entries(kind.lower(context(node)))) outputs.set(`${node.id}/${port}`, value)
  }

  const end = look.nodes.find(n => n.kind === RESULT)
  const finish: FinishRefs = end ? context(end).finish('finish') : {}
  const result = Object.fromEntries(CHANNEL_NAMES.map(name =>
    [name, finish[name] ?? CHANNELS[name].fallback.map(x => b.constant(x))])) as Record<Channel, Ref[]>
  return { code: b.code, domains: b.domains, outputs, result }
}

/** Reads the number that a parameter reference means from a look. Stops are read in order of their position. */
export function readParam(look: Look, ref: ParamRef): number {
  const node = nodeOf(look, ref.node)
  const value = node && paramOf(node, ref.param)
  if (typeof value === 'number') return value
  if (typeof value === 'boolean') return value ? 1 : 0
  if (!Array.isArray(value)) return 0
  if (ref.stop !== undefined) {
    const stop = [...value as Stop[]].sort((x, y) => x.at - y.at)[ref.stop]
    if (!stop) return 0
    return ref.component === 'at' ? stop.at : stop.color[ref.component ?? 0]!
  }
  return (value as number[])[Number(ref.component ?? 0)] ?? 0
}

/**
 * All of a look that shapes its program, as text: while it stays the same, only uniforms change. Positions, names,
 * numbers and colors are left out.
 */
export function signature(look: Look): string {
  const shaping = (node: LookNode) => {
    const kind = kindOf(node.kind)
    const shape = Object.entries(kind?.params ?? {}).map(([name, d]) => {
      if (d.type === 'stops') return (paramOf(node, name) as Stop[]).length
      return d.type === 'choice' || d.type === 'map' || d.type === 'set' || d.type === 'component' ? paramOf(node, name) : 0
    })
    const inputs = Object.values(kind?.inputs ?? {}).map(d => inputType(node, d))
    return [node.id, node.kind, shape, inputs]
  }
  return JSON.stringify([look.nodes.map(shaping), look.wires.map(w => [w.from.node, w.from.port, w.to.node, w.to.port])])
}
