import { triangleCross } from '../mesh/mesh'
import { UnionFind } from '../mesh/unionFind'
import type { Piece } from './meshFile'

/**
 * Which triangles of a piece run the wrong way around: those of a stretch of triangles with common vertices that faces
 * away from its own normals, by area. One triangle alone does not tell, since where a wide face meets a narrow one, a
 * normal between them leans out of the narrow one's front.
 * @returns one number per triangle, 1 where it runs the wrong way; undefined where none does
 */
export function wrongWayAround(piece: Pick<Piece, 'positions' | 'normals' | 'triangles'>): Uint8Array | undefined {
  const { positions, normals, triangles } = piece
  if (!normals) return
  const surface = { positions, indices: triangles }
  const along = new Float64Array(triangles.length / 3)
  const cross: [number, number, number] = [0, 0, 0]
  let doubted = false
  for (let t = 0; t < along.length; t++) {
    triangleCross(surface, t, cross)
    for (let corner = t * 3; corner < t * 3 + 3; corner++) {
      const v = triangles[corner]! * 3
      along[t]! += cross[0] * normals[v]! + cross[1] * normals[v + 1]! + cross[2] * normals[v + 2]!
    }
    if (along[t]! < 0) doubted = true
  }
  if (!doubted) return
  const joined = new UnionFind(positions.length / 3)
  for (let i = 0; i < triangles.length; i += 3) {
    joined.union(triangles[i]!, triangles[i + 1]!)
    joined.union(triangles[i]!, triangles[i + 2]!)
  }
  const sums = new Float64Array(positions.length / 3)
  const shellOf = Uint32Array.from(along, (_, t) => joined.find(triangles[t * 3]!))
  shellOf.forEach((shell, t) => (sums[shell]! += along[t]!))
  const wrong = Uint8Array.from(shellOf, shell => (sums[shell]! < 0 ? 1 : 0))
  return wrong.includes(1) ? wrong : undefined
}
