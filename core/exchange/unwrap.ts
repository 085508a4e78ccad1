import { WebIO } from '@gltf-transform/core'
import type { Mesh } from '../mesh/mesh'
import { fail } from './meshFile'
import { writeGlb } from './writeGlb'

/**
 * Makes UVs for a whole mesh, in one tile, by charts that are flattened and packed (xatlas). Vertices are split where
 * charts part; positions, normals and vertex maps stay.
 * @returns a GLB of the mesh with them
 */
export async function unwrap(mesh: Mesh): Promise<Uint8Array> {
  // What stands several times gets a place in the tile for each.
  const bare = { ...mesh, uvs: undefined, objects: mesh.objects.map(({ shape: _, ...o }) => o) }
  const io = new WebIO()
  const document = await io.readBinary(await writeGlb(bare, 'Unwrapped'))
  const [watlas, { unwrap: unwrapAll }] = await Promise.all([import('watlas'), import('@gltf-transform/functions')])
  await watlas.Initialize()
  await document.transform(unwrapAll({ watlas, overwrite: true, groupBy: 'scene' }))
  const open = document
    .getRoot()
    .listMeshes()
    .some(m => m.listPrimitives().some(p => !p.getAttribute('TEXCOORD_0')))
  return open ? fail('The mesh could not be unwrapped.') : io.writeBinary(document)
}
