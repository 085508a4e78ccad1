import { and, eq, isNull } from 'drizzle-orm'
import { z } from 'zod'
import { useDatabase } from '../../../database/client'
import { projects } from '../../../database/schema'
import { putBlob } from '../../../utils/blobs'
import { limits } from '../../../utils/limits'
import { keysOf, latestRevision, preparationOf, summary } from '../../../utils/projects'
import { readMesh } from '../../../utils/readMesh'
import { bytesOf, findProject, refuse } from '../../../utils/requests'

/** The file's own name: its ending helps to tell what it holds, the rest is for display. Nothing is opened by it. */
const nameOf = z.string().max(200).transform(s => s.replace(/[\\/]/g, '_').trim() || 'mesh.glb').catch('mesh.glb')

/**
 * Puts a mesh into a project. The file is read to the end first; one that is broken changes nothing. Where there was a
 * mesh before, its parts are matched with the new one's, which inherit their keys. Two replacements at once: the second
 * is refused, for it was matched with a mesh that is no longer there.
 */
export default defineEventHandler(async (event) => {
  const project = await findProject(event), name = nameOf.parse(getQuery(event).name ?? ''), allowed = limits()
  const bytes = await bytesOf(event, allowed.bytes)
  const table = await keysOf(project), preparation = preparationOf(await latestRevision(project.id))
  const found = await readMesh({ bytes, name, preparation, limits: allowed, ...(table && { table }) })
  if ('error' in found) throw refuse(422, found.error)
  const meshHash = await putBlob(bytes, 'application/octet-stream'), keysHash = await putBlob(Buffer.from(JSON.stringify(found.keys)), 'application/json')
  const db = await useDatabase(), before = project.meshHash ? eq(projects.meshHash, project.meshHash) : isNull(projects.meshHash)
  const [row] = await db.update(projects).set({ meshHash, meshName: name, keysHash, triangles: found.triangles, parts: found.parts, changed: Date.now() })
    .where(and(eq(projects.id, project.id), before)).returning()
  if (!row) throw refuse(409, 'The mesh was replaced somewhere else in the meantime; open the project again to see it.')
  return summary(row)
})
