import { eq } from 'drizzle-orm'
import { z } from 'zod'
import { READ_LIMITS } from '#core/exchange/readGlb'
import { useDatabase } from '../../../database/client'
import { projects } from '../../../database/schema'
import { putBlob } from '../../../utils/blobs'
import { summary } from '../../../utils/projects'
import { readMesh } from '../../../utils/readMesh'
import { bytesOf, findProject, refuse } from '../../../utils/requests'

/** The file's own name, for display only: nothing is opened by it. */
const nameOf = z.string().max(200).transform(s => s.replace(/[\\/]/g, '_').trim() || 'mesh.glb').catch('mesh.glb')

/** Puts a mesh into a project. The file is read to the end first; one that is broken changes nothing. */
export default defineEventHandler(async (event) => {
  const project = await findProject(event)
  const name = nameOf.parse(getQuery(event).name ?? '')
  const bytes = await bytesOf(event, READ_LIMITS.bytes)
  const found = await readMesh(bytes)
  if ('error' in found) throw refuse(422, found.error)
  const meshHash = await putBlob(bytes, 'model/gltf-binary'), db = await useDatabase()
  const [row] = await db.update(projects).set({ meshHash, meshName: name, triangles: found.triangles, parts: found.parts, changed: Date.now() })
    .where(eq(projects.id, project.id)).returning()
  return summary(row!)
})
