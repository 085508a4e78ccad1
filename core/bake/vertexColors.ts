import { Evaluator } from '../evaluate/evaluator'
import type { MeshTables } from '../evaluate/tables'
import type { Kernels } from '../kernels/kernels'
import { pointSet } from '../mesh/sample'
import type { ParamReader, Program } from '../program/lower'
import { plan } from '../program/plan'

/** The result's base color at every vertex: linear, three numbers each. A vertex that no triangle uses is black. */
export function bakeVertexColors(kernels: Kernels, tables: MeshTables, program: Program, read: ParamReader): Float32Array {
  const { indices, positions } = tables.mesh, count = positions.length / 3
  const points = pointSet(count), used = new Uint8Array(count)
  for (let i = 0; i < indices.length; i++) {
    const v = indices[i]!
    used[v] = 1
    points.triangle[v] = i / 3 | 0
    points.u[v] = i % 3 === 1 ? 1 : 0
    points.v[v] = i % 3 === 2 ? 1 : 0
  }
  const evaluator = new Evaluator(kernels, plan(program, program.result.baseColor), tables)
  evaluator.refresh(read)
  const columns = [0, 1, 2].map(() => new Float32Array(count)), colors = new Float32Array(count * 3)
  evaluator.evaluate(points, columns)
  for (let v = 0; v < count; v++) if (used[v]) for (let k = 0; k < 3; k++) colors[v * 3 + k] = columns[k]![v]!
  return colors
}
