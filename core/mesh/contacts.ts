import { Vector3 } from 'three'
import { ExtendedTriangle } from 'three-mesh-bvh'
import type { Mesh } from './mesh'
import type { Parts } from './parts'

/** Which parts touch: two part numbers for each pair, the smaller first, in order. */
export interface Contacts {
  pairs: Uint32Array
  distance: number
}

type Triangles = Pick<Mesh, 'positions' | 'indices'>
/** Says something of two triangles, by their numbers. */
type OfTwo = (t: number, s: number) => boolean

/**
 * Finds the parts whose surfaces come within `distance` meters of one another.
 *
 * Triangles are put into the cells of a uniform grid, about as wide as a typical triangle; only triangles of different
 * parts in the same cell are compared, boxes first, then exactly. A pair that is known is not compared again.
 * @param stopped asked now and then; once it says yes, what was found so far comes back
 */
export function findContacts(mesh: Triangles, parts: Parts, distance: number, stopped?: () => boolean): Contacts {
  const near = nearPairs(parts, distance)
  const boxes = triangleBoxes(mesh, parts, near.candidate, distance / 2)
  const touching = new Set<number>()
  const apart = separation(mesh, distance)
  const apartBack = separation(mesh, distance)
  const compare = comparison(mesh, distance)
  const { partOfTriangle } = parts
  const total = parts.parts.length
  let rounds = 0
  for (const members of cellsOf(boxes, distance).values()) {
    if (!(++rounds & 1023) && stopped?.()) break
    for (let i = 1; i < members.length; i++) {
      const t = members[i]!
      const a = partOfTriangle[t]!
      for (let j = 0; j < i; j++) {
        const s = members[j]!
        const b = partOfTriangle[s]!
        if (a === b) continue
        const pair = Math.min(a, b) * total + Math.max(a, b)
        if (touching.has(pair) || !near.pairs.has(pair) || !boxes.meet(t, s)) continue
        if (!apart(t, s) && !apartBack(s, t) && compare(t, s)) touching.add(pair)
      }
    }
  }
  const sorted = Float64Array.from(touching).sort()
  const pairs = new Uint32Array(sorted.length * 2)
  sorted.forEach((pair, i) => pairs.set([Math.floor(pair / total), pair % total], i * 2))
  return { pairs, distance }
}

/**
 * Parts whose boxes come near one another, found by a sweep along x: only triangles of those can touch.
 * @returns each pair as one number, the smaller part times the number of parts plus the larger; and for each part
 *   whether it is in one
 */
function nearPairs({ parts }: Parts, distance: number): { pairs: Set<number>; candidate: Uint8Array } {
  const order = Uint32Array.from(parts.keys()).sort((a, b) => parts[a]!.min[0] - parts[b]!.min[0])
  const pairs = new Set<number>()
  const candidate = new Uint8Array(parts.length)
  /** Six numbers a part, in the order of the sweep: the box, grown by the distance at its upper end. */
  const bounds = new Float64Array(parts.length * 6)
  order.forEach((n, i) =>
    parts[n]!.min.forEach((x, k) => {
      bounds[i * 6 + k] = x
      bounds[i * 6 + 3 + k] = x + parts[n]!.size[k]! + distance
    }),
  )
  const active = new Uint32Array(parts.length)
  let actives = 0
  for (let i = 0; i < order.length; i++) {
    const p = i * 6
    const x = bounds[p]!
    const y = bounds[p + 1]!
    const z = bounds[p + 2]!
    const topY = bounds[p + 4]!
    const topZ = bounds[p + 5]!
    let kept = 0
    for (let k = 0; k < actives; k++) {
      const j = active[k]!
      const q = j * 6
      if (bounds[q + 3]! < x) continue
      active[kept++] = j
      if (y > bounds[q + 4]! || bounds[q + 1]! > topY || z > bounds[q + 5]! || bounds[q + 2]! > topZ) continue
      const m = order[i]!
      const n = order[j]!
      pairs.add(Math.min(m, n) * parts.length + Math.max(m, n))
      candidate[m] = candidate[n] = 1
    }
    active[kept] = i
    actives = kept + 1
  }
  return { pairs, candidate }
}

/** The boxes of some triangles, six numbers each, grown on all sides. */
interface Boxes {
  box: Float32Array
  triangles: number[]
  /** Mean of their longest sides, in meters; 0 where there are none. */
  typical: number
  meet: OfTwo
}

function triangleBoxes(
  { positions, indices }: Triangles,
  { partOfTriangle }: Parts,
  candidate: Uint8Array,
  grown: number,
): Boxes {
  const count = indices.length / 3
  const box = new Float32Array(count * 6)
  const triangles: number[] = []
  let sum = 0
  for (let t = 0; t < count; t++) {
    if (!candidate[partOfTriangle[t]!]) continue
    let longest = 0
    for (let k = 0; k < 3; k++) {
      const a = positions[indices[t * 3]! * 3 + k]!
      const b = positions[indices[t * 3 + 1]! * 3 + k]!
      const c = positions[indices[t * 3 + 2]! * 3 + k]!
      box[t * 6 + k] = Math.min(a, b, c) - grown
      box[t * 6 + 3 + k] = Math.max(a, b, c) + grown
      longest = Math.max(longest, box[t * 6 + 3 + k]! - box[t * 6 + k]!)
    }
    sum += longest
    triangles.push(t)
  }
  const meet: OfTwo = (t, s) =>
    box[t * 6]! <= box[s * 6 + 3]! &&
    box[s * 6]! <= box[t * 6 + 3]! &&
    box[t * 6 + 1]! <= box[s * 6 + 4]! &&
    box[s * 6 + 1]! <= box[t * 6 + 4]! &&
    box[t * 6 + 2]! <= box[s * 6 + 5]! &&
    box[s * 6 + 2]! <= box[t * 6 + 5]!
  return { box, triangles, typical: triangles.length ? sum / triangles.length : 0, meet }
}

/** Triangles by the cells of a uniform grid that their boxes lie in. */
function cellsOf({ box, triangles, typical }: Boxes, distance: number): Map<number, number[]> {
  const cell = Math.max(typical ? typical * 1.5 : 1, distance, 1e-9)
  const cells = new Map<number, number[]>()
  for (const t of triangles) {
    const at = (k: number) => Math.floor(box[t * 6 + k]! / cell)
    for (let x = at(0); x <= at(3); x++) {
      for (let y = at(1); y <= at(4); y++) {
        for (let z = at(2); z <= at(5); z++) {
          const id = (x * 73856093) ^ (y * 19349663) ^ (z * 83492791)
          const found = cells.get(id)
          if (found) found.push(t)
          else cells.set(id, [t])
        }
      }
    }
  }
  return cells
}

/**
 * Tells whether the whole of a second triangle lies on one side of a first one's plane, farther away than a distance:
 * then so do the triangles from one another. Most that are compared lie like that.
 */
function separation({ positions, indices }: Triangles, distance: number): OfTwo {
  const corner = new Vector3()
  const edge = new Vector3()
  const normal = new Vector3()
  let height = 0
  let ready = -1
  const cornerOf = (t: number, i: number): Vector3 => corner.fromArray(positions, indices[t * 3 + i]! * 3)
  const setPlane = (t: number): void => {
    normal.copy(cornerOf(t, 1)).sub(cornerOf(t, 0))
    edge.copy(cornerOf(t, 2)).sub(cornerOf(t, 0))
    normal.cross(edge).normalize()
    height = normal.dot(cornerOf(t, 0))
    ready = t
  }
  const above = (s: number, i: number): number => normal.dot(cornerOf(s, i)) - height
  return (t, s) => {
    if (ready !== t) setPlane(t)
    const a = above(s, 0)
    const b = above(s, 1)
    const c = above(s, 2)
    return Math.min(a, b, c) > distance || Math.max(a, b, c) < -distance
  }
}

/** Tells whether two triangles come within a distance of one another. Best asked about the same first one in a row. */
function comparison({ positions, indices }: Triangles, distance: number): OfTwo {
  const one = new ExtendedTriangle()
  const two = new ExtendedTriangle()
  let ready = -1
  const set = (triangle: ExtendedTriangle, t: number): void => {
    ;([triangle.a, triangle.b, triangle.c] as Vector3[]).forEach((corner, i) =>
      corner.fromArray(positions, indices[t * 3 + i]! * 3),
    )
    triangle.needsUpdate = true
  }
  return (t, s) => {
    if (ready !== t) set(one, t)
    ready = t
    set(two, s)
    return one.intersectsTriangle(two) || one.distanceToTriangle(two) <= distance
  }
}
