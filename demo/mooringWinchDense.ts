import { refine } from '../core/geometry/refine'
import type { Mesh } from '../core/mesh/mesh'
import { findParts } from '../core/mesh/parts'
import { mooringWinch } from './mooringWinch'
import { numberPlaces } from './shapes'

/** Longest edge of the dense mesh, in meters. */
const EDGE = 0.014

type Point = readonly [number, number, number]

/** Smooth noise from −1 to 1, about `size` meters to a bump: waves along six directions that have nothing in common. */
function waves([x, y, z]: Point, size: number): number {
  const k = (2 * Math.PI) / size
  return (
    (Math.sin(k * (x * 0.82 + y * 0.31 - z * 0.48)) +
      Math.sin(k * (-x * 0.23 + y * 0.91 + z * 0.35) + 1.7) +
      Math.sin(k * (x * 0.44 - y * 0.27 + z * 0.86) + 4.1) +
      Math.sin(k * 1.6 * (x * 0.61 + y * 0.68 + z * 0.41) + 2.3) +
      Math.sin(k * 1.6 * (-x * 0.74 + y * 0.12 + z * 0.66) + 0.6) +
      Math.sin(k * 1.6 * (x * 0.15 - y * 0.79 + z * 0.59) + 5.2)) /
    6
  )
}

/** How far each kind of surface stands out at a place, in meters. */
const RELIEF: Record<string, (p: Point) => number> = {
  // Dents where something has knocked against the paint.
  paint: p => -0.0035 * Math.max(0, waves(p, 0.09) - 0.35) + 0.0002 * waves(p, 0.02),
  // The grain of a casting, coarse and fine.
  iron: p => 0.0007 * waves(p, 0.03) + 0.0005 * waves(p, 0.014),
  // The yarns of a strand.
  rope: p => 0.0003 * waves(p, 0.011),
}

/** The material of every vertex. */
function materialOfVertices(mesh: Mesh): string[] {
  const names = new Array<string>(mesh.positions.length / 3).fill('')
  for (const run of mesh.materials)
    for (let i = run.firstTriangle * 3; i < (run.firstTriangle + run.triangles) * 3; i++)
      names[mesh.indices[i]!] = run.name
  return names
}

/** Normals of a mesh's vertices from the triangles that use them, by area: vertices that are split stay apart. */
function normalsOf({ positions: p, indices }: Pick<Mesh, 'positions' | 'indices'>): Float32Array {
  const normals = new Float32Array(p.length)
  for (let t = 0; t < indices.length; t += 3) {
    const a = indices[t]! * 3
    const b = indices[t + 1]! * 3
    const c = indices[t + 2]! * 3
    const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!]
    const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!]
    for (let k = 0; k < 3; k++) {
      const at = indices[t + k]! * 3
      normals[at]! += uy * vz - uz * vy
      normals[at + 1]! += uz * vx - ux * vz
      normals[at + 2]! += ux * vy - uy * vx
    }
  }
  for (let i = 0; i < normals.length; i += 3) {
    const length = Math.hypot(normals[i]!, normals[i + 1]!, normals[i + 2]!) || 1
    for (let k = 0; k < 3; k++) normals[i + k]! /= length
  }
  return normals
}

/** The mean of the normals at each place, so that vertices in one place move together; short where edges are sharp. */
function meanNormals({ positions: p, normals }: Mesh): Float32Array {
  const { placeOf, count } = numberPlaces(p, 1e6)
  const sums = new Float64Array(count * 3)
  const counts = new Uint32Array(count)
  placeOf.forEach((place, v) => {
    for (let k = 0; k < 3; k++) sums[place * 3 + k]! += normals[v * 3 + k]!
    counts[place]!++
  })
  return Float32Array.from(p, (_, i) => sums[placeOf[(i / 3) | 0]! * 3 + (i % 3)]! / counts[placeOf[(i / 3) | 0]!]!)
}

/**
 * The mooring winch as it was sculpted: the same pieces, refined to edges of 14 mm, with dents in the paint, the grain
 * of the castings, and a rope of three strands, each a part. Its detail is taken onto the light winch.
 */
export function mooringWinchDense(): Mesh {
  const { mesh: light } = mooringWinch(true)
  const { mesh } = refine(light, findParts(light), EDGE)
  const materials = materialOfVertices(mesh)
  const directions = meanNormals(mesh)
  const positions = mesh.positions.slice()
  materials.forEach((material, v) => {
    const relief = RELIEF[material]
    if (!relief) return
    const place = [mesh.positions[v * 3]!, mesh.positions[v * 3 + 1]!, mesh.positions[v * 3 + 2]!] as const
    const rise = relief(place)
    for (let k = 0; k < 3; k++) positions[v * 3 + k]! += directions[v * 3 + k]! * rise
  })
  return { ...mesh, positions, normals: normalsOf({ positions, indices: mesh.indices }) }
}
