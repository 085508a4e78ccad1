import type { Box } from '../mesh/mesh'
import { minus, type Vector } from '../mesh/vector'
import type { ParamValue } from '../nodes/declare'
import { kindFor, paramOf } from './kinds'
import type { LookNode } from './look'

type Settings = Readonly<Record<string, ParamValue>>
/** Something that can be taken hold of on the stage, for settings that mean a place. Places are in meters. */
export type Handle =
  /** Slides on a line: at 0 it is at `from`, at 1 at `to`, and it may go beyond. */
  | { title: string; slides: true; from: Vector; to: Vector; at: number; set(at: number): Settings }
  /** Goes anywhere. */
  | { title: string; slides: false; at: Vector; set(at: Vector): Settings }

/** A node's settings, and the box of the mesh they mean places on. */
class Held {
  readonly middle: Vector
  readonly size: Vector

  constructor(
    private readonly node: LookNode,
    readonly box: Box,
  ) {
    this.middle = box.min.map((x, k) => (x + box.max[k]!) / 2) as Vector
    this.size = box.max.map((x, k) => x - box.min[k]!) as Vector
  }

  number(name: string): number {
    return Number(paramOf(this.node, name))
  }
  /** An angle, from degrees. */
  radians(name: string): number {
    return (this.number(name) * Math.PI) / 180
  }
  choice(name: string): ParamValue | undefined {
    return paramOf(this.node, name)
  }
}

const round = (x: number, digits: number): number => Number(x.toFixed(digits))
const added = (p: Vector, d: Vector, by = 1): Vector => [p[0] + d[0] * by, p[1] + d[1] * by, p[2] + d[2] * by]

/**
 * The handles of a node, by its settings: both ends of a gradient across the mesh, a zone's middle and edge, a
 * projection's turn.
 */
export function handlesOf(node: LookNode, box: Box): Handle[] {
  const held = new Held(node, box)
  if (node.kind === 'positionGradient') return gradientHandles(held)
  if (node.kind === 'zone') return zoneHandles(held)
  return kindFor(node)?.params.sits && held.choice('sits') === 'planar' ? [turnHandle(held)] : []
}

/** The direction of a gradient, unit length. */
function directionOf(held: Held): Vector {
  const axis = held.choice('axis') as 'X' | 'Y' | 'Z' | 'any'
  if (axis !== 'any') return [Number(axis === 'X'), Number(axis === 'Y'), Number(axis === 'Z')]
  const turn = held.radians('turn')
  const tilt = held.radians('tilt')
  return [Math.sin(turn) * Math.cos(tilt), Math.sin(tilt), Math.cos(turn) * Math.cos(tilt)]
}

function gradientHandles(held: Held): Handle[] {
  if (held.choice('space') !== 'mesh' || held.choice('axis') === 'several') return []
  const { middle, size } = held
  const d = directionOf(held)
  const length = d.reduce((s, x, k) => s + Math.abs(x) * size[k]!, 0)
  const from = added(middle, d, -length / 2)
  const to = added(middle, d, length / 2)
  const inMillimeters = held.choice('unit') === 'mm'
  const whole = inMillimeters ? length * 1000 : 1
  const names = inMillimeters ? ['startMm', 'endMm'] : ['start', 'end']
  return names.map((name, i) => ({
    title: i ? 'End' : 'Start',
    slides: true,
    from,
    to,
    at: held.number(name) / whole,
    set: at => ({ [name]: round(at * whole, inMillimeters ? 0 : 3) }),
  }))
}

function zoneHandles(held: Held): Handle[] {
  const { middle, size } = held
  const { min, max } = held.box
  const place: Vector = [held.number('x') / 100, held.number('y') / 100, held.number('z') / 100]
  if (held.choice('shape') === 'below')
    return [
      {
        title: 'Height',
        slides: true,
        from: [middle[0], min[1], middle[2]],
        to: [middle[0], max[1], middle[2]],
        at: (place[1] - min[1]) / (size[1] || 1),
        set: at => ({ y: round((min[1] + at * size[1]) * 100, 1) }),
      },
    ]
  return [
    {
      title: 'Middle',
      slides: false,
      at: place,
      set: at => ({ x: round(at[0] * 100, 1), y: round(at[1] * 100, 1), z: round(at[2] * 100, 1) }),
    },
    {
      title: 'Radius',
      slides: true,
      from: place,
      to: added(place, [1, 0, 0]),
      at: held.number('radius') / 100,
      set: at => ({ radius: Math.max(0.01, round(at * 100, 1)) }),
    },
  ]
}

/** On a circle around the middle, in the plane of the projection. */
function turnHandle(held: Held): Handle {
  const { middle, size } = held
  const [a, b] = ({ XY: [0, 1], ZY: [2, 1], XZ: [0, 2] } as const)[held.choice('plane') as 'XY']
  const reach = Math.hypot(size[a], size[b]) / 2
  const turn = held.radians('turn')
  const at: Vector = [...middle]
  at[a] += Math.cos(turn) * reach
  at[b] -= Math.sin(turn) * reach
  return {
    title: 'Turn',
    slides: false,
    at,
    set: to => {
      const way = minus(to, middle)
      return { turn: round((Math.atan2(-way[b], way[a]) * 180) / Math.PI, 1) }
    },
  }
}
