import { writeGlb } from '#core/exchange/writeGlb'
import { floatRack } from '#demo/floatRack'
import { floatRackLook } from '#demo/floatRackLook'
import { putBlob } from '../utils/blobs'
import { createProject } from '../utils/projects'

/** Makes a project with the demo mesh and its finished look. */
export default defineEventHandler(async () => {
  const { mesh, counts } = floatRack()
  const meshHash = await putBlob(Buffer.from(await writeGlb(mesh, 'Float rack')), 'model/gltf-binary')
  return createProject('Ferry pier: float rack', floatRackLook(), { meshHash, meshName: 'float-rack.glb', triangles: mesh.indices.length / 3, parts: counts.parts })
})
