import { weldedEdges } from './edges'
import { triangleCross, type Mesh } from './mesh'
import type { Parts } from './parts'
import { UnionFind } from './unionFind'
import { connect, weld } from './weld'

/** A patch is a UV island, faces between creases sharper than `angle` degrees, or a whole part. */
export type PatchSettings = { by: 'uv' } | { by: 'crease'; angle: number } | { by: 'part' }

/**
 * Finds the patches of a mesh.
 * @param rep for every vertex the one that it is welded to
 */
export function findPatches(
  mesh: Mesh,
  settings: PatchSettings,
  reach: number,
  rep: Uint32Array,
  { parts, partOfTriangle }: Pick<Parts, 'parts' | 'partOfTriangle'>,
): { patches: number; patchOfTriangle: Uint32Array } {
  const { indices } = mesh
  const triangles = indices.length / 3
  const numbered = (size: number, rootOf: (t: number) => number) => {
    const number = new Int32Array(size).fill(-1)
    const patchOfTriangle = new Uint32Array(triangles)
    let patches = 0
    for (let t = 0; t < triangles; t++) {
      const root = rootOf(t)
      if (number[root]! < 0) number[root] = patches++
      patchOfTriangle[t] = number[root]!
    }
    return { patches, patchOfTriangle }
  }
  if (settings.by === 'part' || (settings.by === 'uv' && !mesh.uvs))
    return { patches: parts.length, patchOfTriangle: partOfTriangle.slice() }
  if (settings.by === 'uv') {
    const uvRep = weld(mesh, reach, mesh.uvs)
    const sets = connect(mesh, uvRep)
    return numbered(rep.length, t => sets.find(uvRep[indices[t * 3]!]!))
  }
  // Faces on both sides of an edge are one patch unless their normals turn by more than the angle.
  const { first, second } = weldedEdges(mesh, rep)
  const sets = new UnionFind(triangles)
  const least = Math.cos((settings.angle * Math.PI) / 180)
  const a: [number, number, number] = [0, 0, 0]
  const b: [number, number, number] = [0, 0, 0]
  for (let e = 0; e < first.length; e++) {
    if (second[e]! < 0) continue
    triangleCross(mesh, first[e]!, a)
    triangleCross(mesh, second[e]!, b)
    const length = Math.hypot(...a) * Math.hypot(...b)
    if (length === 0 || a[0] * b[0] + a[1] * b[1] + a[2] * b[2] >= least * length) sets.union(first[e]!, second[e]!)
  }
  return numbered(triangles, t => sets.find(t))
}
