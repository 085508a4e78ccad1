import { fromLch } from '../color/convert'
import type { LaidLook } from '../evaluate/laidLook'
import type { MeshTables } from '../evaluate/tables'
import { flatten } from '../graph/flatten'
import { kindFor, outputType } from '../graph/kinds'
import type { Look } from '../graph/look'
import { CHANNEL_LANES, CHANNEL_NAMES, CHANNELS, type Channel } from '../graph/types'
import { drawOf } from '../mesh/hash'
import type { SurfacePoints } from '../mesh/sample'
import type { ParamReader, Program } from '../program/lower'
import { isGathered, readsOf, type Ref } from '../program/ops'
import { heightSlopes, tangentNormals } from './relief'

/** The vertex map that the occlusion lane reads: a geometry map of this name, which is 1 where it is closed off. */
export const OCCLUSION_MAP = 'occlusion'

/** A lane that a look does not have. The message is one sentence for the artist. */
export class LaneError extends Error {}

/**
 * The value of a program that a lane is (`ref:N` names one by its number); undefined for what is not a value of a
 * program.
 */
export function laneRef(program: Program, lane: string): Ref | undefined {
  if (lane.startsWith('ref:')) return Number(lane.slice(4))
  const port = /^port:(.+\/[^/.]+)(?:\.([rgbxyz]))?$/.exec(lane)
  if (port) {
    const value = program.outputs.get(port[1]!)
    const k = port[2] ? ('rgb'.indexOf(port[2]) + 1 || 'xyz'.indexOf(port[2]) + 1) - 1 : 0
    if (!value || value.type === 'finish') throw new LaneError(`The look has no value at "${lane.slice(5)}".`)
    return value.type === 'value' ? value.value : value.value[k]
  }
  if (lane === 'height' && program.stands !== undefined) return program.stands
  for (const c of CHANNEL_NAMES) {
    const at = CHANNEL_LANES[CHANNELS[c].size]!.findIndex(l => c + l === lane)
    if (at >= 0) return program.result[c][at]
  }
  return undefined
}

/** The lanes of a port (`NODE/PORT`) of a look: one, or three. @throws LaneError where there is no such port */
export function lanesOfPort(look: Look, port: string): string[] {
  const at = port.lastIndexOf('/')
  const node = flatten(look).nodes.find(n => n.id === port.slice(0, at))
  const output = node && kindFor(node)?.outputs[port.slice(at + 1)]
  const type = node && output && outputType(node, output)
  if (!type || type === 'finish') throw new LaneError(`The look has no value at "${port}".`)
  return type === 'value'
    ? [`port:${port}`]
    : (type === 'color' ? ['r', 'g', 'b'] : ['x', 'y', 'z']).map(k => `port:${port}.${k}`)
}

/** The values of a program that a lane is made of. */
function rootsOf(program: Program, lane: string): readonly Ref[] {
  if (lane.startsWith('normal')) return [...program.result.height, ...(program.normals ?? [])]
  const ref = lane === 'occlusion' ? program.closed : laneRef(program, lane)
  return ref === undefined ? [] : [ref]
}

/** Everything that some lanes depend on, as text: what is the same text gives the same texels on the same mesh. */
export function fingerprint(program: Program, read: ParamReader, lanes: readonly string[]): string {
  const roots = lanes.flatMap(lane => rootsOf(program, lane))
  const seen = new Set<Ref>()
  const queue = [...roots]
  for (let ref = queue.pop(); ref !== undefined; ref = queue.pop()) {
    if (seen.has(ref)) continue
    seen.add(ref)
    const i = program.code[ref]!
    if ('args' in i) queue.push(...i.args)
    else if (isGathered(i)) queue.push(...readsOf(i))
  }
  // Numbered anew: an instruction elsewhere must not change the text.
  const order = [...seen].sort((a, b) => a - b)
  const number = new Map(order.map((ref, i) => [ref, i]))
  const text = order.map(ref => {
    const i = program.code[ref]!
    if (i.op === 'param') return read(i.ref)
    if ('args' in i) return { ...i, args: i.args.map(a => number.get(a)) }
    if (!isGathered(i)) return i
    const reads = readsOf(i).map(r => number.get(r))
    return i.op === 'pinned'
      ? { op: i.op, reading: i.reading, pins: read.pins?.(i.node, i.param) }
      : {
          ...i,
          of: undefined,
          where: undefined,
          share: undefined,
          differ: undefined,
          list: undefined,
          seed: undefined,
          amount: undefined,
          edge: undefined,
          reads,
        }
  })
  return JSON.stringify([lanes, roots.map(r => number.get(r)), text])
}

/** A flat color for a key, told apart by hue and lightness, always the same for the same key. */
const flatColor = (key: string) => fromLch([0.45 + 0.4 * drawOf(key, 1), 0.13, 360 * drawOf(key, 2)])

/**
 * What is the same all over a part, by the name of its lane: flat colors, numbers from 1, membership in a set. One
 * value a part.
 */
function laneOfParts({ parts, sets }: MeshTables, name: string): Float32Array | undefined {
  const list = parts.parts
  const numbers = {
    part: (i: number) => i,
    group: (i: number) => list[i]!.group,
    object: (i: number) => list[i]!.object,
  }
  if (name.startsWith('set:')) {
    const members = sets.find(s => s.set.id === name.slice('set:'.length))?.members
    if (!members) throw new LaneError(`The mesh has no part set "${name.slice('set:'.length)}".`)
    return Float32Array.from(members)
  }
  const [what, lane] = name.split('.') as [string, string | undefined]
  if (what === 'id') {
    const of = numbers[lane as keyof typeof numbers]
    return Float32Array.from(list, (_, i) => of(i) + 1)
  }
  if (!(what in numbers)) return undefined
  const keys = {
    part: list.map(p => p.key),
    group: list.map(p => parts.groups[p.group]!.key),
    object: list.map(p => parts.objectKeys[p.object]!),
  }
  const k = 'rgb'.indexOf(lane!)
  return Float32Array.from(keys[what as keyof typeof keys], key => flatColor(key)[k]!)
}

export interface Lanes {
  /** Values of all lanes at points: one column each. */
  at(points: SurfacePoints): Float32Array[]
  /** The largest number to be expected of the height (millimeters, either way) and of the emission; 1 or more. */
  largest: { height: number; emission: number }
}

/** The next of 1, 2, 5, 10, … that is not smaller. */
const rounded = (x: number): number => {
  const decade = 10 ** Math.floor(Math.log10(x))
  return [1, 2, 5, 10].find(k => k * decade >= x * 0.999999)! * decade
}

/**
 * Makes ready what reads some lanes of a look at points.
 * @param tangents four numbers for each corner of each triangle; see {@link tangentNormals}
 * @throws LaneError where a lane names what is not there
 */
export function lanesOf(laid: LaidLook, names: readonly string[], tangents?: Float32Array): Lanes {
  const { tables, program } = laid
  const refs = names.map(name => laneRef(program, name))
  const tilts = names.some(n => n.startsWith('normal.'))
  const bends = tilts && program.sets.has('height')
  const base = tilts ? program.normals : undefined
  const [relief] = program.result.height
  const shut = names.includes('occlusion') ? program.closed : undefined
  const needed = [...refs, bends ? relief : undefined, ...(base ?? []), shut]
  const known = [...new Set(needed.filter(r => r !== undefined))]
  const sample = laid.sampler(known)
  const { mesh, parts } = tables
  const height = bends ? laid.sampler([relief!]) : undefined
  const ofParts = names.map((name, n) => (refs[n] === undefined ? laneOfParts(tables, name) : undefined))
  const closed = names.includes('occlusion')
    ? mesh.maps.find(m => m.name === OCCLUSION_MAP && m.components === 1)?.values
    : undefined
  const largestOf = (channel: Channel): number => {
    const values = CHANNEL_LANES[CHANNELS[channel].size]!.map(l => laneRef(program, channel + l)!)
    if (!program.sets.has(channel) || !refs.some(r => r !== undefined && values.includes(r))) return 1
    return laid.most(values)
  }
  return {
    largest: {
      height: rounded(largestOf('height') * 1.02 || 1),
      emission: Math.max(1, rounded(largestOf('emission'))),
    },
    at(points) {
      const columns = sample(points)
      const { count, triangle, u, v } = points
      const flat = (): Float32Array => new Float32Array(count)
      const slopes = height
        ? heightSlopes(tables, points, columns[known.indexOf(relief!)]!, where => height(where)[0]!)
        : ([flat(), flat()] as const)
      const under = base?.map(ref => columns[known.indexOf(ref)]!)
      const normals = height || under ? tangentNormals(tables, points, slopes, tangents, under) : undefined
      return names.map((name, n) => {
        const ref = refs[n]
        if (ref !== undefined) return columns[known.indexOf(ref)]!
        const [what, lane] = name.split('.') as [string, string | undefined]
        if (what === 'normal' && normals) return normals['xyz'.indexOf(lane!)]!
        const out = new Float32Array(count)
        const own = ofParts[n]
        if (own) for (let i = 0; i < count; i++) out[i] = own[parts.partOfTriangle[triangle[i]!]!]!
        else if (what === 'occlusion' && closed) {
          for (let i = 0; i < count; i++) {
            const t = triangle[i]! * 3
            const a = closed[mesh.indices[t]!]!
            const b = closed[mesh.indices[t + 1]!]!
            const c = closed[mesh.indices[t + 2]!]!
            out[i] = 1 - (a + (b - a) * u[i]! + (c - a) * v[i]!)
          }
        }
        // What nobody sets: a normal straight up, no closeness, a constant.
        else out.fill(Number(!['0', 'normal.x', 'normal.y'].includes(name)))
        if (what === 'occlusion' && shut !== undefined) {
          const hidden = columns[known.indexOf(shut)]!
          for (let i = 0; i < count; i++) out[i]! *= 1 - hidden[i]!
        }
        return out
      })
    },
  }
}
