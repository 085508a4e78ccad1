import { and, eq } from 'drizzle-orm'
import { useDatabase } from '../../../../database/client'
import { pictures } from '../../../../database/schema'
import { getBlob } from '../../../../utils/blobs'
import { findProject, refuse } from '../../../../utils/requests'

export default defineEventHandler(async (event) => {
  const project = await findProject(event), hash = getRouterParam(event, 'hash') ?? '', db = await useDatabase()
  const [row] = await db.select().from(pictures).where(and(eq(pictures.project, project.id), eq(pictures.hash, hash))).limit(1), blob = row && await getBlob(hash)
  if (!blob) throw refuse(404, 'The project has no such picture.')
  setHeaders(event, { 'content-type': blob.type, 'cache-control': 'private, max-age=31536000, immutable' })
  return blob.bytes
})
