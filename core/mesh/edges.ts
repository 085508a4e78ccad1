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

/**
 * The edges of a mesh over welded vertices, in an open hash table. Edges that welding shrinks to a point are left out.
 */
export function weldedEdges(mesh: Pick<Mesh, 'indices'>, rep: Uint32Array): Edges {
  const { indices } = mesh
  const most = indices.length
  const mask = 2 ** Math.ceil(Math.log2(Math.max(16, most * 1.5))) - 1
  const slots = new Int32Array(mask + 1)
  const a = new Uint32Array(most)
  const b = new Uint32Array(most)
  const first = new Int32Array(most)
  const second = new Int32Array(most)
  const count = new Uint8Array(most)
  let edges = 0
  for (let i = 0; i < indices.length; i++) {
    const p = rep[indices[i]!]!
    const q = rep[indices[i % 3 === 2 ? i - 2 : i + 1]!]!
    if (p === q) continue
    const low = p < q ? p : q
    const high = p < q ? q : p
    const t = (i / 3) | 0
    let h = Math.imul(low, 0x9e3779b1) ^ Math.imul(high, 0x85ebca77)
    h = (h ^ (h >>> 15)) & mask
    while (slots[h] && (a[slots[h]! - 1] !== low || b[slots[h]! - 1] !== high)) h = (h + 1) & mask
    if (slots[h]) {
      const e = slots[h]! - 1
      if (second[e]! < 0) second[e] = t
      if (count[e]! < 255) count[e]!++
    } else {
      slots[h] = edges + 1
      a[edges] = low
      b[edges] = high
      first[edges] = t
      second[edges] = -1
      count[edges++] = 1
    }
  }
  return {
    a: a.slice(0, edges),
    b: b.slice(0, edges),
    first: first.slice(0, edges),
    second: second.slice(0, edges),
    count: count.slice(0, edges),
  }
}
