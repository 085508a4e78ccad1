import type { Mesh } from './mesh'

export interface Edges {
  /** Ends of every edge, as welded vertices, the smaller first. */
  a: Uint32Array
  b: Uint32Array
  /** A triangle on each side; -1 where there is none (an open edge). Of three or more triangles two are named. */
  first: Int32Array
  second: Int32Array
  /** Triangles at the edge. */
  count: Uint8Array
}

/** Numbers edges by their two ends, in the order in which they are first asked for, in an open hash table. */
export class EdgeNumbers {
  private readonly room: Uint32Array
  /** How many there are. */
  known = 0
  /** The number of an edge and 1 where its ends lead, or the places after it; 0 where nothing is. */
  private readonly slots: Uint32Array

  /** @param most how many edges will be asked for */
  constructor(most: number) {
    this.room = new Uint32Array(most * 2)
    this.slots = new Uint32Array(2 ** Math.ceil(Math.log2(most * 2)))
  }

  numberOf(a: number, b: number): number {
    const { room, slots } = this
    const low = Math.min(a, b)
    const high = Math.max(a, b)
    const last = slots.length - 1
    let at = (Math.imul(low, 0x9e3779b1) ^ Math.imul(high, 0x85ebca6b)) >>> 0
    at = (at ^ (at >>> 15)) & last
    for (; slots[at]!; at = (at + 1) & last) {
      const edge = slots[at]! - 1
      if (room[edge * 2] === low && room[edge * 2 + 1] === high) return edge
    }
    slots[at] = ++this.known
    room[this.known * 2 - 2] = low
    room[this.known * 2 - 1] = high
    return this.known - 1
  }

  /** The lower and the higher end of each. */
  get ends(): Uint32Array {
    return this.room.subarray(0, this.known * 2)
  }
}

/**
 * The edges of a mesh over welded vertices. Edges that welding shrinks to a point are left out.
 */
export function weldedEdges(mesh: Pick<Mesh, 'indices'>, rep: Uint32Array): Edges {
  const { indices } = mesh
  const most = indices.length
  const numbers = new EdgeNumbers(most)
  const first = new Int32Array(most)
  const second = new Int32Array(most)
  const count = new Uint8Array(most)
  for (let i = 0; i < indices.length; i++) {
    const p = rep[indices[i]!]!
    const q = rep[indices[i % 3 === 2 ? i - 2 : i + 1]!]!
    if (p === q) continue
    const triangle = (i / 3) | 0
    const { known } = numbers
    const edge = numbers.numberOf(p, q)
    if (edge === known) {
      first[edge] = triangle
      second[edge] = -1
      count[edge] = 1
    } else {
      if (second[edge]! < 0) second[edge] = triangle
      if (count[edge]! < 255) count[edge]!++
    }
  }
  const { ends, known: edges } = numbers
  const a = new Uint32Array(edges)
  const b = new Uint32Array(edges)
  for (let e = 0; e < edges; e++) {
    a[e] = ends[e * 2]!
    b[e] = ends[e * 2 + 1]!
  }
  return {
    a,
    b,
    first: first.slice(0, edges),
    second: second.slice(0, edges),
    count: count.slice(0, edges),
  }
}
