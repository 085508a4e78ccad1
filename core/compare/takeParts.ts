import { LaidLook } from '../evaluate/laidLook'
import type { MeshTables } from '../evaluate/tables'
import { setParam } from '../graph/edit'
import { kindFor, paramOf } from '../graph/kinds'
import type { Look, LookNode } from '../graph/look'
import type { Pin } from '../graph/types'
import type { Kernels } from '../kernels/kernels'
import { samplePartPoints } from '../mesh/sample'
import { STATISTICS } from './numbers'

/** What a node gives a single part. */
export interface TakenPin {
  node: string
  pin: Pin
}

const PINS = 'pins'
/** Draws closer than this are the same. */
const SAME = 1e-6

/** Nodes that hand something out to each part, and can be told what single parts get. */
export const pinnable = (look: Look): LookNode[] =>
  look.nodes.filter(n => kindFor(n)?.params[PINS]?.type === 'pins' && (paramOf(n, 'level') ?? 'part') === 'part')

/**
 * What makes single parts in one look be drawn as they are in another: a pin for each node and part whose draws differ.
 * @param parts keys of parts
 */
export function pinsFrom(
  kernels: Kernels,
  tables: MeshTables,
  source: Look,
  target: Look,
  parts: readonly string[],
): TakenPin[] {
  const nodes = pinnable(target).filter(n => pinnable(source).some(s => s.id === n.id))
  const wanted = new Set(parts)
  // A draw is the same all over its part: one point on each tells.
  const points = samplePartPoints(tables.mesh, tables.parts, 1)
  const drawn = (look: Look): Float32Array[] => {
    const laid = LaidLook.of(kernels, tables, look)
    const refs = nodes.map(n => {
      const out = laid.program.outputs.get(`${n.id}/value`)
      if (out?.type !== 'value') throw new Error(`The node "${n.id}" gives parts no value.`)
      return out.value
    })
    return nodes.length ? laid.sampler(refs, STATISTICS)(points) : []
  }
  const [theirs, ours] = [drawn(source), drawn(target)]
  return nodes.flatMap((node, n) =>
    tables.parts.parts.flatMap(({ key }, part) => {
      const value = theirs[n]![part]!
      const differs = wanted.has(key) && Math.abs(value - ours[n]![part]!) > SAME
      return differs ? [{ node: node.id, pin: { part: key, value } }] : []
    }),
  )
}

/**
 * A look with pins, which take the place of those that its nodes have for the same parts. Those of nodes that it lacks
 * are passed over.
 */
export function withPins(look: Look, pins: readonly TakenPin[]): Look {
  return pinnable(look).reduce((now, node) => {
    const own = pins.filter(p => p.node === node.id).map(p => p.pin)
    if (!own.length) return now
    const kept = (paramOf(node, PINS) as Pin[]).filter(p => !own.some(o => o.part === p.part))
    return setParam(now, node.id, PINS, [...kept, ...own])
  }, look)
}
