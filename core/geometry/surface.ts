import { weldedEdges, type Edges } from '../mesh/edges'
import type { Mesh } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'
import { weld } from '../mesh/weld'

/**
 * The surface as one graph: vertices that share a place are one, so that no seam shows in what is computed on it. All
 * columns are per welded vertex.
 */
export interface Surface {
  count: number
  /** Welded vertex of every vertex of the mesh. */
  of: Uint32Array
  /** x, y, z. */
  positions: Float64Array
  /** Area-weighted, unit length: at an edge, between its sides. */
  normals: Float64Array
  part: Uint32Array
  /** Welded vertices of every triangle. */
  triangles: Uint32Array
  edges: Edges
}

export function surfaceOf(mesh: Mesh, parts: Parts): Surface {
  const rep = weld(mesh, parts.weldDistance)
  const of = new Uint32Array(rep.length)
  const vertices = rep.length
  let count = 0
  for (let v = 0; v < vertices; v++) of[v] = rep[v] === v ? count++ : of[rep[v]!]!
  const positions = new Float64Array(count * 3)
  const normals = new Float64Array(count * 3)
  const part = new Uint32Array(count)
  for (let v = 0; v < vertices; v++) {
    if (rep[v] !== v) continue
    for (let k = 0; k < 3; k++) positions[of[v]! * 3 + k] = mesh.positions[v * 3 + k]!
    part[of[v]!] = parts.partOfVertex[v]!
  }
  const triangles = mesh.indices.map(v => of[v]!)
  for (let t = 0; t < triangles.length; t += 3) {
    const a = triangles[t]! * 3
    const b = triangles[t + 1]! * 3
    const c = triangles[t + 2]! * 3
    const ux = positions[b]! - positions[a]!
    const uy = positions[b + 1]! - positions[a + 1]!
    const uz = positions[b + 2]! - positions[a + 2]!
    const vx = positions[c]! - positions[a]!
    const vy = positions[c + 1]! - positions[a + 1]!
    const vz = positions[c + 2]! - positions[a + 2]!
    const nx = uy * vz - uz * vy
    const ny = uz * vx - ux * vz
    const nz = ux * vy - uy * vx
    for (const i of [a, b, c]) {
      normals[i]! += nx
      normals[i + 1]! += ny
      normals[i + 2]! += nz
    }
  }
  for (let i = 0; i < normals.length; i += 3) {
    const length = Math.hypot(normals[i]!, normals[i + 1]!, normals[i + 2]!) || 1
    for (let k = 0; k < 3; k++) normals[i + k]! /= length
  }
  const identity = Uint32Array.from({ length: count }, (_, i) => i)
  return { count, of, positions, normals, part, triangles, edges: weldedEdges({ indices: triangles }, identity) }
}

/** A column per welded vertex as a column per vertex of the mesh. */
export const spreadOut = (surface: Surface, values: ArrayLike<number>): Float32Array =>
  Float32Array.from(surface.of, v => values[v]!)

/** The triangles around each vertex of a surface: those of vertex `v` from `starts[v]` to `starts[v + 1]`. */
export interface Around {
  starts: Uint32Array
  list: Uint32Array
}
export function trianglesAround({ count, triangles }: Surface): Around {
  const starts = new Uint32Array(count + 1)
  for (let i = 0; i < triangles.length; i++) starts[triangles[i]! + 1]!++
  for (let v = 0; v < count; v++) starts[v + 1]! += starts[v]!
  const list = new Uint32Array(triangles.length)
  const next = starts.slice(0, count)
  for (let i = 0; i < triangles.length; i++) list[next[triangles[i]!]!++] = Math.floor(i / 3)
  return { starts, list }
}
