import { Vector3 } from 'three'
import { ExtendedTriangle } from 'three-mesh-bvh'
import type { Mesh } from './mesh'
import type { Parts } from './parts'

/** Which parts touch: two part numbers for each pair, the smaller first, in order. */
export interface Contacts {
  pairs: Uint32Array
  distance: number
}

/**
 * Finds the parts whose surfaces come within `distance` meters of one another.
 *
 * Triangles are put into the cells of a uniform grid, about as wide as a typical triangle; only triangles of different
 * parts in the same cell are compared, boxes first, then exactly. A pair that is known is not compared again.
 * @param stopped asked now and then; once it says yes, what was found so far comes back
 */
export function findContacts(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  parts: Parts,
  distance: number,
  stopped?: () => boolean,
): Contacts {
  const { positions, indices } = mesh
  const list = parts.parts
  const triangles = indices.length / 3
  const half = distance / 2
  // (1) Only triangles inside the box of another part can touch it: sweep the boxes along x.
  const order = Uint32Array.from(list.keys()).sort((a, b) => list[a]!.min[0] - list[b]!.min[0])
  const near = new Set<number>()
  const candidate = new Uint8Array(list.length)
  /** Six numbers a part, in the order of the sweep: the box, grown by the distance at its upper end. */
  const bounds = new Float64Array(list.length * 6)
  order.forEach((n, i) =>
    list[n]!.min.forEach((x, k) => {
      bounds[i * 6 + k] = x
      bounds[i * 6 + 3 + k] = x + list[n]!.size[k]! + distance
    }),
  )
  const active = new Uint32Array(list.length)
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
      near.add(Math.min(m, n) * list.length + Math.max(m, n))
      candidate[m] = candidate[n] = 1
    }
    active[kept] = i
    actives = kept + 1
  }
  // (2) Boxes of the triangles of those parts, and a grid over them.
  const box = new Float32Array(triangles * 6)
  let sum = 0
  let used = 0
  for (let t = 0; t < triangles; t++) {
    if (!candidate[parts.partOfTriangle[t]!]) continue
    let longest = 0
    for (let k = 0; k < 3; k++) {
      const a = positions[indices[t * 3]! * 3 + k]!
      const b = positions[indices[t * 3 + 1]! * 3 + k]!
      const c = positions[indices[t * 3 + 2]! * 3 + k]!
      box[t * 6 + k] = Math.min(a, b, c) - half
      box[t * 6 + 3 + k] = Math.max(a, b, c) + half
      longest = Math.max(longest, box[t * 6 + 3 + k]! - box[t * 6 + k]!)
    }
    sum += longest
    used++
  }
  const cell = Math.max(used ? (sum / used) * 1.5 : 1, distance, 1e-9)
  const cells = new Map<number, number[]>()
  for (let t = 0; t < triangles; t++) {
    if (!candidate[parts.partOfTriangle[t]!]) continue
    const at = (k: number) => Math.floor(box[t * 6 + k]! / cell)
    // A triangle much longer than the others would fill a great many cells; it is spread over its longest side only.
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
  // (3) Compare within each cell.
  const touching = new Set<number>()
  const one = new ExtendedTriangle()
  const two = new ExtendedTriangle()
  const set = (triangle: ExtendedTriangle, t: number) => {
    ;([triangle.a, triangle.b, triangle.c] as Vector3[]).forEach((corner, i) =>
      corner.fromArray(positions, indices[t * 3 + i]! * 3),
    )
    triangle.needsUpdate = true
  }
  let rounds = 0
  for (const members of cells.values()) {
    if (!(++rounds & 1023) && stopped?.()) break
    for (let i = 1; i < members.length; i++) {
      const t = members[i]!
      const a = parts.partOfTriangle[t]!
      let ready = false
      for (let j = 0; j < i; j++) {
        const s = members[j]!
        const b = parts.partOfTriangle[s]!
        if (a === b) continue
        const pair = Math.min(a, b) * list.length + Math.max(a, b)
        if (touching.has(pair) || !near.has(pair)) continue
        if (
          box[t * 6]! > box[s * 6 + 3]! ||
          box[s * 6]! > box[t * 6 + 3]! ||
          box[t * 6 + 1]! > box[s * 6 + 4]! ||
          box[s * 6 + 1]! > box[t * 6 + 4]! ||
          box[t * 6 + 2]! > box[s * 6 + 5]! ||
          box[s * 6 + 2]! > box[t * 6 + 5]!
        )
          continue
        if (!ready) set(one, t)
        ready = true
        set(two, s)
        if (one.intersectsTriangle(two) || one.distanceToTriangle(two) <= distance) touching.add(pair)
      }
    }
  }
  const sorted = Float64Array.from(touching).sort()
  const pairs = new Uint32Array(sorted.length * 2)
  sorted.forEach((pair, i) => pairs.set([Math.floor(pair / list.length), pair % list.length], i * 2))
  return { pairs, distance }
}
