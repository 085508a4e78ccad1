import { vertexPoints } from '../evaluate/gather'
import type { MeshTables } from '../evaluate/tables'
import { triangleAreas, type Mesh } from '../mesh/mesh'
import type { Lanes } from './lanes'
import { cornerWeights } from './tangents'

/**
 * The mesh that is delivered, where it is not the analysis mesh, and which of its triangles those of the analysis mesh
 * lie in.
 */
export interface Coarse {
  mesh: Mesh
  parents: Uint32Array
}

/**
 * Lanes at every vertex of the mesh that is delivered: as they are there, or on a coarser mesh the mean by area of the
 * surface around the vertex, weighted as the triangles spread a vertex's value. A vertex that no triangle uses has 0.
 * @returns one column for each lane
 */
export function vertexLanes(lanes: Lanes, tables: MeshTables, coarse?: Coarse): Float32Array[] {
  const { mesh } = tables
  const fine = lanes.at(vertexPoints(tables))
  const used = new Uint8Array(mesh.positions.length / 3)
  for (const v of mesh.indices) used[v] = 1
  for (const column of fine) for (let v = 0; v < column.length; v++) if (!used[v]) column[v] = 0
  if (!coarse) return fine
  const count = coarse.mesh.positions.length / 3
  const weight = new Float64Array(count)
  const sums = fine.map(() => new Float64Array(count))
  const at = cornerWeights(coarse.mesh, mesh, coarse.parents)
  const areas = triangleAreas(mesh)
  for (let i = 0; i < mesh.indices.length; i++) {
    const t = (i / 3) | 0
    const v = mesh.indices[i]!
    const [second, third] = [at[i * 2]!, at[i * 2 + 1]!]
    ;[1 - second - third, second, third].forEach((share, k) => {
      const to = coarse.mesh.indices[coarse.parents[t]! * 3 + k]!
      const w = areas[t]! * Math.max(0, share)
      if (!(w > 0)) return
      weight[to]! += w
      for (let c = 0; c < fine.length; c++) sums[c]![to]! += w * fine[c]![v]!
    })
  }
  return sums.map(column => Float32Array.from(column, (x, v) => (weight[v] ? x / weight[v] : 0)))
}
