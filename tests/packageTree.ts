import { BufferAttribute, BufferGeometry } from 'three'
import { MeshBVH } from 'three-mesh-bvh'

/**
 * A tree of triangles as the package has it, to compare ours with.
 * @param positions x, y, z per vertex
 * @param indices three vertices of each triangle, which stay as they are
 * @param keep whether the tree leaves them in their order
 */
export function packageTree(positions: ArrayLike<number>, indices: Uint32Array, keep = false): MeshBVH {
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from(positions), 3))
  geometry.setIndex(new BufferAttribute(indices.slice(), 1))
  return new MeshBVH(geometry, { indirect: keep })
}
