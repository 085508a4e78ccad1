import { vertexPoints } from '../evaluate/gather'
import { sampler } from '../evaluate/sampler'
import type { MeshTables } from '../evaluate/tables'
import type { Kernels } from '../kernels/kernels'
import type { ParamReader, Program } from '../program/lower'

/** The result's base color at every vertex: linear, three numbers each. A vertex that no triangle uses is black. */
export function bakeVertexColors(kernels: Kernels, tables: MeshTables, program: Program, read: ParamReader): Float32Array {
  const points = vertexPoints(tables), { count } = points, used = new Uint8Array(count)
  for (const v of tables.mesh.indices) used[v] = 1
  const columns = sampler(kernels, tables, program, read)(program.result.baseColor)(points), colors = new Float32Array(count * 3)
  for (let v = 0; v < count; v++) if (used[v]) for (let k = 0; k < 3; k++) colors[v * 3 + k] = columns[k]![v]!
  return colors
}
