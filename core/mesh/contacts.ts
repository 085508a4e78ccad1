import { Vector3 } from 'three'
import { ExtendedTriangle } from 'three-mesh-bvh'
import type { Mesh } from './mesh'
import type { Parts } from './parts'
import { atOnce } from '../pieces'

/** Which parts touch: two part numbers for each pair, the smaller first, in order. */
export interface Contacts {
  pairs: Uint32Array
  distance: number
}

type Triangles = Pick<Mesh, 'positions' | 'indices'>
/** Says something of two triangles, by their numbers. */
type OfTwo = (t: number, s: number) => boolean

/** Pairs of triangles that are looked at before others have a turn. */
const PIECE = 100_000

/** Finds the parts whose surfaces come within `distance` meters of one another. */
export const findContacts = (mesh: Triangles, parts: Parts, distance: number): Contacts =>
  atOnce(findingContacts(mesh, parts, distance))

/**
 * The same piece by piece: whoever runs it may do something else in between.
 *
 * Triangles are put into the cells of a uniform grid, about as wide as a typical triangle; only triangles of different
 * parts in the same cell are compared, boxes first, then exactly, and each two of them in one cell alone. A pair of
 * parts that is known is not compared again.
 */
export function* findingContacts(mesh: Triangles, parts: Parts, distance: number): Generator<void, Contacts> {
  const boxes = triangleBoxes(mesh, parts, near(parts, distance), distance / 2)
  const { starts, members, home } = cellsOf(boxes, distance)
  const touching = new Set<number>()
  const apart = separation(mesh, distance)
  const apartBack = separation(mesh, distance)
  const compare = comparison(mesh, distance)
  const { partOfTriangle } = parts
  const total = parts.parts.length
  let looked = 0
  for (let cell = 0; cell + 1 < starts.length; cell++) {
    const from = starts[cell]!
    // Where the triangles of the same part begin that come before one: most of a part come one after the other.
    let run = from
    for (let i = from + 1; i < starts[cell + 1]!; i++) {
      const t = members[i]!
      const a = partOfTriangle[t]!
      if (a !== partOfTriangle[members[i - 1]!]) run = i
      let b = -1
      let pair = 0
      let isKnown = false
      for (let j = from; j < run; j++) {
        const s = members[j]!
        if (partOfTriangle[s] !== b) {
          b = partOfTriangle[s]!
          pair = Math.min(a, b) * total + Math.max(a, b)
          isKnown = a === b || touching.has(pair)
        }
        if (isKnown || !boxes.meet(t, s) || home(t, s) !== cell || apart(t, s) || apartBack(s, t)) continue
        isKnown = compare(t, s)
        if (isKnown) touching.add(pair)
      }
      looked += run - from
      if (looked < PIECE) continue
      looked = 0
      yield
    }
  }
  const sorted = Float64Array.from(touching).sort()
  const pairs = new Uint32Array(sorted.length * 2)
  sorted.forEach((pair, i) => pairs.set([Math.floor(pair / total), pair % total], i * 2))
  return { pairs, distance }
}

/**
 * For each part whether its box comes near another's, found by a sweep along x: only triangles of those can touch.
 */
function near({ parts }: Parts, distance: number): Uint8Array {
  const order = Uint32Array.from(parts.keys()).sort((a, b) => parts[a]!.min[0] - parts[b]!.min[0])
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
      candidate[order[i]!] = candidate[order[j]!] = 1
    }
    active[kept] = i
    actives = kept + 1
  }
  return candidate
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

/** Triangles by the cells of a uniform grid that their boxes lie in; cells far from one another may be kept as one. */
interface Cells {
  /** Where the triangles of each cell begin in `members`, and at the end how many there are. */
  starts: Uint32Array
  members: Uint32Array
  /** Of two triangles whose boxes meet, a cell that both lie in, always the same. */
  home: (t: number, s: number) => number
}

function cellsOf({ box, triangles, typical }: Boxes, distance: number): Cells {
  const cell = Math.max(typical || 1, distance, 1e-9)
  const at = (t: number, k: number): number => Math.floor(box[t * 6 + k]! / cell)
  const mask = 2 ** Math.ceil(Math.log2(triangles.length + 1)) - 1
  const numberOf = (x: number, y: number, z: number): number =>
    (Math.imul(x, 73856093) ^ Math.imul(y, 19349663) ^ Math.imul(z, 83492791)) & mask
  const eachCell = (t: number, visit: (cell: number) => void): void => {
    for (let x = at(t, 0); x <= at(t, 3); x++)
      for (let y = at(t, 1); y <= at(t, 4); y++) for (let z = at(t, 2); z <= at(t, 5); z++) visit(numberOf(x, y, z))
  }
  const starts = new Uint32Array(mask + 2)
  for (const t of triangles) eachCell(t, c => starts[c]!++)
  for (let c = 1; c < starts.length; c++) starts[c]! += starts[c - 1]!
  // From the end of each cell to its beginning.
  const members = new Uint32Array(starts[mask + 1]!)
  for (let i = triangles.length - 1; i >= 0; i--) eachCell(triangles[i]!, c => (members[--starts[c]!] = triangles[i]!))
  // The lowest corner of what two boxes have in common lies in both.
  const lowest = (t: number, s: number, k: number): number => Math.max(at(t, k), at(s, k))
  return { starts, members, home: (t, s) => numberOf(lowest(t, s, 0), lowest(t, s, 1), lowest(t, s, 2)) }
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
