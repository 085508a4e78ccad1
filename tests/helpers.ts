import { assemble } from '../demo/assemble'
import { lathe, type Shape } from '../demo/shapes'
import { meshTables, type MeshTables } from '#core/evaluate/tables'
import { LoneEvaluator } from '#core/evaluate/loneEvaluator'
import { addNode, connect, setParam } from '#core/graph/edit'
import { emptyLook, type Look } from '#core/graph/look'
import { kindOf } from '#core/nodes'
import type { ParamValue } from '#core/nodes/declare'
import { loadKernels } from '#core/kernels/kernels'
import type { Mesh } from '#core/mesh/mesh'
import { findParts } from '#core/mesh/parts'
import { samplePoints, type SurfacePoints } from '#core/mesh/sample'
import { lower, reader, refsOf } from '#core/program/lower'
import { plan } from '#core/program/plan'

export const kernels = await loadKernels()

/**
 * Where something does not hold, for one assertion over many numbers: one for each takes longer than what is tried.
 * @returns the first hundred indices
 */
export function notSo<T>(list: ArrayLike<T>, holds: (x: T, i: number) => boolean): number[] {
  const found: number[] = []
  for (let i = 0; i < list.length && found.length < 100; i++) if (!holds(list[i]!, i)) found.push(i)
  return found
}

export interface BoxSpec {
  object: string
  at: [number, number, number]
  size?: [number, number, number]
}

/**
 * Boxes with flat normals (24 vertices each) and UVs: box `i` has its own cell of a grid, each face a sixth of it.
 * Boxes with the same object name belong to one object.
 */
export function boxes(specs: BoxSpec[]): Mesh {
  const names = [...new Set(specs.map(s => s.object))]
  const cells = Math.ceil(Math.sqrt(specs.length))
  const positions: number[] = []
  const normals: number[] = []
  const uvs: number[] = []
  const indices: number[] = []
  const mesh: Mesh = {
    positions: new Float32Array(),
    normals: new Float32Array(),
    indices: new Uint32Array(),
    objects: [],
    materials: [],
    maps: [],
    warnings: [],
  }
  for (const name of names) {
    const firstVertex = positions.length / 3
    const firstTriangle = indices.length / 3
    specs.forEach(({ object, at, size = [1, 1, 1] }, n) => {
      if (object !== name) return
      for (let face = 0; face < 6; face++) {
        const axis = face >> 1
        const sign = face & 1 ? 1 : -1
        const base = positions.length / 3
        for (const [s, t] of [
          [-1, -1],
          [1, -1],
          [1, 1],
          [-1, 1],
        ] as const) {
          const p = [0, 0, 0]
          const q = [0, 0, 0]
          p[axis] = sign
          p[(axis + 1) % 3] = s * sign
          p[(axis + 2) % 3] = t
          q[axis] = sign
          positions.push(...p.map((x, k) => at[k]! + (x * size[k]!) / 2))
          normals.push(...q)
          const u = ((face % 3) + 0.05 + 0.45 * (s + 1)) / 3
          const v = (((face / 3) | 0) + 0.05 + 0.45 * (t + 1)) / 2
          uvs.push(((n % cells) + u) / cells, (((n / cells) | 0) + v) / cells)
        }
        indices.push(base, base + 1, base + 2, base, base + 2, base + 3)
      }
    })
    mesh.objects.push({
      name,
      firstVertex,
      vertices: positions.length / 3 - firstVertex,
      firstTriangle,
      triangles: indices.length / 3 - firstTriangle,
    })
  }
  mesh.materials.push({ name: 'plain', firstTriangle: 0, triangles: indices.length / 3 })
  return {
    ...mesh,
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    uvs: Float32Array.from(uvs),
    indices: Uint32Array.from(indices),
  }
}

export const tablesOf = (mesh: Mesh): MeshTables => meshTables(mesh, findParts(mesh))

/** A row of `n` unit boxes along x, two apart, each an object of its own. */
/** A square of one meter in the plane of X and Y, facing Z: u runs along X, v runs down Y. */
export const square: Mesh = {
  positions: Float32Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0),
  normals: Float32Array.of(0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1),
  uvs: Float32Array.of(0, 1, 1, 1, 1, 0, 0, 0),
  indices: Uint32Array.of(0, 1, 2, 0, 2, 3),
  objects: [{ name: 'square', firstTriangle: 0, triangles: 2, firstVertex: 0, vertices: 4 }],
  materials: [{ name: 'coat', firstTriangle: 0, triangles: 2 }],
  maps: [],
  warnings: [],
}

/** Boxes in three rows 3 m apart, so many in one place that each is looked at beside each other one of its row. */
export const crowd = (): Mesh =>
  boxes(Array.from({ length: 180 }, (_, i) => ({ object: `box ${i}`, at: [i * 0.002, 0, (i % 3) * 3] })))

export const row = (n: number): Mesh =>
  boxes(Array.from({ length: n }, (_, i) => ({ object: `box ${i}`, at: [i * 2, 0, 0] })))

/** Builds a look: nodes by id, kind and parameters, wires as `a.out > b.in`. The result has the id `result`. */
export function lookOf(
  nodes: Record<string, [kind: string, params?: Record<string, ParamValue>]>,
  wires: string[],
): Look {
  let look = emptyLook()
  const ids = new Map([['result', 'result']])
  for (const [name, [kind, params]] of Object.entries(nodes)) {
    const added = addNode(look, kind, [0, 0])
    look = Object.entries(params ?? {}).reduce((l, [k, v]) => setParam(l, added.id, k, v), added.look)
    ids.set(name, added.id)
  }
  for (const wire of wires) {
    const [from, to] = wire.split(' > ').map(end => {
      const [node, port] = end.split('.') as [string, string]
      return { node: ids.get(node)!, port }
    })
    const next = connect(look, from!, to!)
    if (next === look) throw new Error(`refused: ${wire}`)
    look = next
  }
  return look
}

/** One node of a kind, feeding nothing, with numbers for its inputs. Returns all outputs at the points, by name. */
export function outputsOf(
  kind: string,
  params: Record<string, ParamValue>,
  tables: MeshTables,
  points?: SurfacePoints,
): Record<string, Float32Array[]> {
  const look = lookOf({ it: [kind, params] }, [])
  const id = look.nodes.find(n => n.kind === kind)!.id
  return Object.fromEntries(
    Object.keys(kindOf(kind)!.outputs).map(port => [port, at(look, tables, `${id}/${port}`, points)]),
  )
}

/** What a port is at the points (1,000 over the surface if none are given): one column per component. */
export function at(
  look: Look,
  tables: MeshTables,
  port: string,
  points = samplePoints(tables.mesh, 1000),
): Float32Array[] {
  const program = lower(look, tables.mesh.maps)
  const lowered = program.outputs.get(port)!
  const roots = refsOf(lowered)
  const evaluator = new LoneEvaluator(kernels, plan(program, roots), tables)
  const columns = roots.map(() => new Float32Array(points.count))
  evaluator.refresh(reader(look))
  evaluator.evaluate(points, columns)
  return columns
}

/** World position of each point. */
export function positionsOf({ mesh }: MeshTables, points: SurfacePoints): [number, number, number][] {
  return Array.from(
    { length: points.count },
    (_, i) =>
      [0, 1, 2].map(k => {
        const corner = (c: number) => mesh.positions[mesh.indices[points.triangle[i]! * 3 + c]! * 3 + k]!
        return corner(0) + (corner(1) - corner(0)) * points.u[i]! + (corner(2) - corner(0)) * points.v[i]!
      }) as [number, number, number],
  )
}

export const partsOf = ({ parts }: MeshTables, points: SurfacePoints): number[] =>
  Array.from(points.triangle, t => parts.partOfTriangle[t]!)

/** A mesh of shapes, each an object of its own, where they are. */
export function meshOf(...shapes: Shape[]): Mesh {
  return assemble(
    shapes.map((shape, i) => ({ object: `shape ${i}`, material: 'plain', shape, place: { at: [0, 0, 0] }, maps: {} })),
  ).mesh
}

/** A ball around the origin. */
export const ball = (radius: number, columns = 48, rows = 32): Shape =>
  lathe(columns, rows, v => [v === 0 || v === 1 ? 0 : radius * Math.sin(v * Math.PI), radius * Math.cos(v * Math.PI)])
