import { tilingOf, type Tiling } from '../bake/raster'
import { cornerTangents, refinedTangents, withTangents, type TangentMaker } from '../bake/tangents'
import type { Coarse } from '../bake/vertexValues'
import type { Workpiece } from '../evaluate/workpiece'
import type { Mesh } from '../mesh/mesh'
import { tileOf } from '../mesh/uvs'
import type { DeliverySettings } from './settings'

/** The mesh as it leaves, and how values come to its vertices. */
export interface Delivered {
  mesh: Mesh
  tiling: Tiling
  tileOf: (triangle: number) => number
  partOfTriangle: Uint32Array
  /** Where values come from the analysis mesh by their mean. */
  coarse?: Coarse
  tangents?: Float32Array
  /** The vertex before tangents split it. */
  from?: Uint32Array
}

/** The mesh of the file and the triangles of it that those of the analysis mesh come from, where it is what leaves. */
function coarseOf(piece: Workpiece, on: DeliverySettings['on']): Coarse | undefined {
  const { parents } = piece.analysis
  return on === 'file' && parents ? { mesh: piece.mesh, parents } : undefined
}

/** Tangents of the corners of the mesh that a delivery writes, where it has UVs: a normal picture goes with them. */
export function deliveredTangents(
  piece: Workpiece,
  on: DeliverySettings['on'],
  make: TangentMaker,
): Float32Array | undefined {
  const { mesh } = coarseOf(piece, on) ?? piece.analysis
  return mesh.uvs && cornerTangents(mesh, make)
}

/** The mesh that a delivery writes. @param corners as {@link deliveredTangents} has them, where they go with it */
export function deliveredMesh(piece: Workpiece, on: DeliverySettings['on'], corners?: Float32Array): Delivered {
  const { mesh: fine, parts } = piece.analysis
  const coarse = coarseOf(piece, on)
  const plain = coarse?.mesh ?? fine
  const partOfTriangle = coarse ? piece.parts.partOfTriangle : parts.partOfTriangle
  const split = corners && withTangents(plain, corners)
  const mesh = split?.mesh ?? plain
  const tiling = tilingOf(mesh)
  const tile = (t: number) =>
    tiling.repeats || !mesh.uvs
      ? 1001
      : tileOf(mesh.uvs, mesh.indices[t * 3]!, mesh.indices[t * 3 + 1]!, mesh.indices[t * 3 + 2]!)
  return {
    mesh,
    tiling,
    tileOf: tile,
    partOfTriangle,
    ...(coarse && { coarse }),
    ...(split && { tangents: split.tangents, from: split.from }),
  }
}

/** The part that each vertex of the delivered mesh belongs to. */
export function partsAtVertices({ mesh, partOfTriangle }: Delivered): Uint32Array {
  const partOf = new Uint32Array(mesh.positions.length / 3)
  mesh.indices.forEach((v, i) => (partOf[v] = partOfTriangle[Math.floor(i / 3)]!))
  return partOf
}

/**
 * Tangents of the analysis mesh's corners as a viewer of the delivered mesh has them.
 * @param corners as {@link deliveredTangents} has them
 */
export function bakedTangents(piece: Workpiece, on: DeliverySettings['on'], corners: Float32Array): Float32Array {
  const coarse = coarseOf(piece, on)
  return coarse ? refinedTangents(coarse.mesh, corners, piece.analysis.mesh, coarse.parents) : corners
}
