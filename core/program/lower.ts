import { inOrder } from '../graph/check'
import type { Look, LookNode } from '../graph/look'
import { CHANNEL_NAMES, CHANNELS, type Channel, type CurvePoint, type Pin, type Stop } from '../graph/types'
import { flatten, follow } from '../graph/flatten'
import { inputType, kindFor, paramOf } from '../graph/kinds'
import type { Mesh } from '../mesh/mesh'
import { RESULT } from '../nodes'
import { closedOf, heightsOf, normalsOf } from '../nodes/result'
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
  /** The channels that the result's finish sets; the others show their fallback. */
  sets: ReadonlySet<Channel>
  /** Which way the surface faces where a picture says so, in world space. */
  normals?: Ref3
  /**
   * The height that is delivered, in millimeters, where that is another than the one that the surface is shaded by:
   * what a picture of heights holds is in the picture of normals already.
   */
  stands?: Ref
  /** The share of the light from all around that does not arrive, where a picture says so. */
  closed?: Ref
}

/** The vertex maps that a look may read: name and number of components (1 to 4). */
export type MapList = readonly { name: string; components: number }[]

/**
 * Lowers a look. Never fails: what the checks call an error (an unknown kind, a loop, a wire that does not fit) counts
 * as an open input.
 * @param ownNormals the picture of the mesh's own normals, where it has one
 */
export function lower(folded: Look, maps: MapList, ownNormals?: string): Program {
  const look = flatten(folded)
  const b = new Builder()
  const outputs = new Map<string, Lowered>()
  const sizes = new Map(maps.map(m => [m.name, m.components]))
  const feed = new Map(look.wires.map(w => [`${w.to.node}/${w.to.port}`, w.from]))

  const arriving = (node: LookNode, input: string): Lowered | undefined => {
    const from = feed.get(`${node.id}/${input}`)
    return from && outputs.get(`${from.node}/${from.port}`)
  }
  const param = (node: LookNode, name: string, rest: Partial<ParamRef> = {}) =>
    b.param({ node: node.id, param: name, ...rest })
  const rgbParam = (node: LookNode, name: string): Ref3 =>
    [0, 1, 2].map(component => param(node, name, { component })) as Ref3

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
    stops: name =>
      (paramOf(node, name) as Stop[]).map((_, stop) => ({
        at: param(node, name, { stop, component: 'at' }),
        color: [0, 1, 2].map(component => param(node, name, { stop, component })) as Ref3,
      })),
    choice: name => String(paramOf(node, name)),
    palette: name =>
      (paramOf(node, name) as Stop[]).map((_, stop) => ({
        weight: param(node, name, { stop, listed: true, component: 'at' }),
        color: [0, 1, 2].map(component => param(node, name, { stop, listed: true, component })) as Ref3,
      })),
    curve: name =>
      (paramOf(node, name) as CurvePoint[]).map((_, stop) => ({
        x: param(node, name, { stop, component: 'x' }),
        y: param(node, name, { stop, component: 'y' }),
      })),
    pinned: (name, reading) =>
      (paramOf(node, name) as Pin[]).length
        ? b.gather({ op: 'pinned', node: node.id, param: name, reading })
        : undefined,
    channels: name => paramOf(node, name) as Channel[],
    wired: input => arriving(node, input) !== undefined,
    mapComponents: name => sizes.get(name),
  })

  for (const node of inOrder(look)) {
    const kind = kindFor(node)
    if (!kind) continue
    for (const [port, value] of Object.entries(kind.lower(context(node)))) outputs.set(`${node.id}/${port}`, value)
  }

  // Recipes and echoes show what they stand for.
  for (const [key, port] of look.stands) {
    const at = follow(port, look.stands)
    const value = at && outputs.get(`${at.node}/${at.port}`)
    if (value) outputs.set(key, value)
  }

  const end = look.nodes.find(n => n.kind === RESULT)
  const finish: FinishRefs = end ? context(end).finish('finish') : {}
  const result = Object.fromEntries(
    CHANNEL_NAMES.map(name => [name, finish[name] ?? CHANNELS[name].fallback.map(x => b.constant(x))]),
  ) as Record<Channel, Ref[]>
  const normals = end && normalsOf(context(end), ownNormals)
  const heights = end && heightsOf(context(end))
  const closed = end && closedOf(context(end))
  const stands = heights === undefined ? undefined : b.add(result.height[0]!, heights)
  if (stands !== undefined && !normals) result.height = [stands]
  return {
    code: b.code,
    domains: b.domains,
    outputs,
    result,
    ...(normals && { normals }),
    ...(normals && stands !== undefined && { stands }),
    ...(closed !== undefined && { closed }),
    sets: new Set(CHANNEL_NAMES.filter(name => finish[name] ?? (name === 'height' && heights !== undefined))),
  }
}

/** Lowers a look as it lies on a mesh: with its maps and its own normals. */
export const lowerOn = (look: Look, { maps, ownNormals }: Pick<Mesh, 'maps' | 'ownNormals'>): Program =>
  lower(look, maps, ownNormals)

/** The values that a port gives out, one a component; of a finish those of all its channels. */
export function refsOf(lowered: Lowered): readonly Ref[] {
  if (lowered.type === 'value') return [lowered.value]
  return lowered.type === 'finish' ? Object.values(lowered.value).flat() : lowered.value
}

/** Reads numbers of parameters, and the lists of pinned parts. */
export type ParamReader = ((ref: ParamRef) => number) & { pins?: (node: string, param: string) => readonly Pin[] }

/** Reads the parameters of a look: stops and the points of curves in order of their position. */
export function reader(folded: Look): ParamReader {
  const nodes = new Map(flatten(folded).nodes.map(n => [n.id, n]))
  return Object.assign((ref: ParamRef) => readNumber(nodes.get(ref.node), ref), {
    pins: (node: string, param: string) => (nodes.has(node) ? (paramOf(nodes.get(node)!, param) as Pin[]) : []),
  })
}

/** The number that a parameter reference means. */
function readNumber(node: LookNode | undefined, ref: ParamRef): number {
  const value = node && paramOf(node, ref.param)
  if (typeof value === 'number') return value
  if (typeof value === 'boolean') return value ? 1 : 0
  if (!Array.isArray(value)) return 0
  if (ref.stop !== undefined) {
    if (ref.component === 'x' || ref.component === 'y')
      return [...(value as CurvePoint[])].sort((p, q) => p.x - q.x)[ref.stop]?.[ref.component] ?? 0
    const stop = (ref.listed ? (value as Stop[]) : [...(value as Stop[])].sort((x, y) => x.at - y.at))[ref.stop]
    if (!stop) return 0
    return ref.component === 'at' ? stop.at : stop.color[Number(ref.component ?? 0)]!
  }
  return (value as number[])[Number(ref.component ?? 0)] ?? 0
}

const signatures = new WeakMap<Look, string>()
/**
 * All of a look that shapes its program, as text: while it stays the same, only uniforms change. Positions, names,
 * numbers and colors are left out.
 */
export function signature(folded: Look): string {
  let text = signatures.get(folded)
  if (text === undefined) signatures.set(folded, (text = shapeOf(folded)))
  return text
}

function shapeOf(folded: Look): string {
  const look = flatten(folded)
  const shaping = (node: LookNode) => {
    const kind = kindFor(node)
    const shape = Object.entries(kind?.params ?? {}).map(([name, d]) => {
      if (d.type === 'stops' || d.type === 'palette' || d.type === 'curve')
        return (paramOf(node, name) as Stop[]).length
      if (d.type === 'pins') return (paramOf(node, name) as Pin[]).length > 0
      return d.type === 'choice' ||
        d.type === 'map' ||
        d.type === 'set' ||
        d.type === 'component' ||
        d.type === 'channels' ||
        d.type === 'picture'
        ? paramOf(node, name)
        : 0
    })
    const inputs = Object.values(kind?.inputs ?? {}).map(d => inputType(node, d))
    return [node.id, node.kind, shape, inputs]
  }
  return JSON.stringify([
    look.nodes.map(shaping),
    look.wires.map(w => [w.from.node, w.from.port, w.to.node, w.to.port]),
    [...look.stands].map(([key, p]) => [key, p.node, p.port]),
  ])
}
