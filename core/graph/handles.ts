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

/**
 * The handles of a node, by its settings: both ends of a gradient across the mesh, a zone's middle and edge, a
 * projection's turn.
 */
export function handlesOf(node: LookNode, { min, max }: Box): Handle[] {
  const number = (name: string): number => Number(paramOf(node, name))
  const choice = (name: string) => paramOf(node, name)
  const middle = min.map((x, k) => (x + max[k]!) / 2) as Vector
  const size = max.map((x, k) => x - min[k]!) as Vector
  const round = (x: number, digits: number) => Number(x.toFixed(digits))
  const added = (p: Vector, d: Vector, by = 1): Vector => [p[0] + d[0] * by, p[1] + d[1] * by, p[2] + d[2] * by]
  if (node.kind === 'positionGradient') {
    if (choice('space') !== 'mesh' || choice('axis') === 'several') return []
    const radians = (name: string) => (number(name) * Math.PI) / 180
    const axis = choice('axis') as 'X' | 'Y' | 'Z' | 'any'
    const d: Vector =
      axis === 'any'
        ? [
            Math.sin(radians('turn')) * Math.cos(radians('tilt')),
            Math.sin(radians('tilt')),
            Math.cos(radians('turn')) * Math.cos(radians('tilt')),
          ]
        : [Number(axis === 'X'), Number(axis === 'Y'), Number(axis === 'Z')]
    const length = d.reduce((s, x, k) => s + Math.abs(x) * size[k]!, 0)
    const from = added(middle, d, -length / 2)
    const to = added(middle, d, length / 2)
    const ends =
      choice('unit') === 'mm'
        ? ([
            ['startMm', length * 1000, 0],
            ['endMm', length * 1000, 0],
          ] as const)
        : ([
            ['start', 1, 3],
            ['end', 1, 3],
          ] as const)
    return ends.map(([name, whole, digits], i) => ({
      title: i ? 'End' : 'Start',
      slides: true,
      from,
      to,
      at: number(name) / whole,
      set: at => ({ [name]: round(at * whole, digits) }),
    }))
  }
  if (node.kind === 'zone') {
    const place: Vector = [number('x') / 100, number('y') / 100, number('z') / 100]
    const put = (at: Vector): Settings => ({
      x: round(at[0] * 100, 1),
      y: round(at[1] * 100, 1),
      z: round(at[2] * 100, 1),
    })
    if (choice('shape') === 'below') {
      const foot: Vector = [middle[0], min[1], middle[2]]
      const top: Vector = [middle[0], max[1], middle[2]]
      return [
        {
          title: 'Height',
          slides: true,
          from: foot,
          to: top,
          at: (place[1] - min[1]) / (size[1] || 1),
          set: at => ({ y: round((min[1] + at * size[1]) * 100, 1) }),
        },
      ]
    }
    const reach = number('radius') / 100
    const edge = added(place, [1, 0, 0])
    return [
      { title: 'Middle', slides: false, at: place, set: put },
      {
        title: 'Radius',
        slides: true,
        from: place,
        to: edge,
        at: reach,
        set: at => ({ radius: Math.max(0.01, round(at * 100, 1)) }),
      },
    ]
  }
  if (kindFor(node)?.params.sits && choice('sits') === 'planar') {
    // On a circle around the middle, in the plane of the projection.
    const [a, b] = ({ XY: [0, 1], ZY: [2, 1], XZ: [0, 2] } as const)[choice('plane') as 'XY']
    const reach = Math.hypot(size[a], size[b]) / 2
    const turn = (number('turn') * Math.PI) / 180
    const at: Vector = [...middle]
    at[a] += Math.cos(turn) * reach
    at[b] -= Math.sin(turn) * reach
    return [
      {
        title: 'Turn',
        slides: false,
        at,
        set: to => {
          const way = minus(to, middle)
          return { turn: round((Math.atan2(-way[b], way[a]) * 180) / Math.PI, 1) }
        },
      },
    ]
  }
  return []
}
