import { LaidLook } from '../evaluate/laidLook'
import type { MeshTables } from '../evaluate/tables'
import { titleOf } from '../graph/check'
import { setParam } from '../graph/edit'
import { kindFor, paramOf } from '../graph/kinds'
import { LookError, type Look, type LookNode } from '../graph/look'
import { nodeOf } from '../graph/find'
import { CHANNEL_NAMES, CHANNELS, type Channel } from '../graph/types'
import type { Kernels } from '../kernels/kernels'
import { samplePoints } from '../mesh/sample'
import type { ParamValue } from '../nodes/declare'
import { STATISTICS } from './numbers'

/** Two states of a look in one: some channels of the first, the others of the second. */
export interface Combined {
  look: Look
  /**
   * Settings that drive channels of both sorts: they come from the first, and so do those channels as far as they go.
   */
  shared: { title: string; channels: Channel[] }[]
}

/** A setting that differs between two states, or all that a recipe is made of. */
interface Differing {
  title: string
  /** Makes it in a look what it is in another. */
  take(look: Look, from: Look): Look
}

/** Points on the mesh at which channels are compared. */
const POINTS = 2048
/** Channels whose values differ by less are the same. */
const SAME = 1e-5

/**
 * Combines two states of a look that differ in settings alone. Which channels a setting drives is found by setting it
 * alone, in either state, and seeing what changes on the mesh.
 * @param channels the ones that come from the first state
 * @throws LookError where the two differ in nodes or wires
 */
export function combine(
  kernels: Kernels,
  tables: MeshTables,
  first: Look,
  second: Look,
  channels: readonly Channel[],
): Combined {
  const differing = differingSettings(first, second)
  const points = samplePoints(tables.mesh, POINTS)
  const valuesOf = (look: Look): Record<Channel, Float32Array[]> => {
    const laid = LaidLook.of(kernels, tables, look)
    const { program } = laid
    const refs = CHANNEL_NAMES.flatMap(c => program.result[c])
    const columns = laid.sampler(refs, STATISTICS)(points)
    return Object.fromEntries(CHANNEL_NAMES.map(c => [c, columns.splice(0, program.result[c].length)])) as Record<
      Channel,
      Float32Array[]
    >
  }
  const [ofFirst, ofSecond] = [valuesOf(first), valuesOf(second)]
  let look = second
  const shared: Combined['shared'] = []
  for (const { title, take } of differing) {
    const one = changed(ofSecond, valuesOf(take(second, first)))
    const two = changed(ofFirst, valuesOf(take(first, second)))
    const driven = CHANNEL_NAMES.filter(c => one.includes(c) || two.includes(c))
    const wanted = driven.filter(c => channels.includes(c))
    if (!wanted.length) continue
    look = take(look, first)
    if (wanted.length < driven.length) shared.push({ title, channels: driven })
  }
  return { look, shared }
}

/** Channels that differ anywhere between two sets of values. */
const changed = (a: Record<Channel, Float32Array[]>, b: Record<Channel, Float32Array[]>): Channel[] =>
  CHANNEL_NAMES.filter(c => a[c].some((column, k) => column.some((x, i) => Math.abs(x - b[c][k]![i]!) > SAME)))

function differingSettings(first: Look, second: Look): Differing[] {
  const shapeOf = (look: Look): string =>
    JSON.stringify([
      look.nodes.map(n => [n.id, n.kind, n.off ?? false]).sort((a, b) => (a[0]! < b[0]! ? -1 : 1)),
      look.wires.map(w => JSON.stringify(w)).sort(),
    ])
  if (shapeOf(first) !== shapeOf(second))
    throw new LookError('These two differ in nodes or wires, not in settings alone, so they cannot be combined.')
  return second.nodes.flatMap(node => {
    const kind = kindFor(node)
    const their = nodeOf(first, node.id)!
    const names = [...Object.keys(kind?.params ?? {}), ...Object.keys(kind?.inputs ?? {})]
    const settings = names.flatMap((param): Differing[] => {
      if (JSON.stringify(paramOf(their, param)) === JSON.stringify(paramOf(node, param))) return []
      const declared = kind?.params[param] ?? kind?.inputs[param]
      const title = `${titleOf(node)}: ${declared?.title ?? param}`
      const take = (look: Look, from: Look): Look =>
        setParam(look, node.id, param, paramOf(nodeOf(from, node.id)!, param) as ParamValue)
      return [{ title, take }]
    })
    const inside = JSON.stringify(their.recipe) === JSON.stringify(node.recipe) ? [] : [recipeOf(node)]
    return [...settings, ...inside]
  })
}

/** All that a recipe is made of, as one thing that differs. */
const recipeOf = (node: LookNode): Differing => ({
  title: titleOf(node),
  take: (look, from) => ({
    ...look,
    nodes: look.nodes.map(n => (n.id === node.id ? { ...n, recipe: nodeOf(from, n.id)!.recipe } : n)) as LookNode[],
  }),
})

/** What came along, one sentence for each setting. */
export const sharedInWords = ({ shared }: Combined): string[] =>
  shared.map(({ title, channels }) => `${title} drives ${channels.map(c => CHANNELS[c].title).join(', ')}.`)
