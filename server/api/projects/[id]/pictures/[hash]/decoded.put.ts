import { and, eq } from 'drizzle-orm'
import { useDatabase } from '../../../../../database/client'
import { pictures } from '../../../../../database/schema'
import { putBlob } from '../../../../../utils/blobs'
import { pictureType } from '../../../../../utils/pictureType'
import { bytesOf, findProject, refuse } from '../../../../../utils/requests'

/** Keeps a picture as the browser decoded it, as PNG: the server's own threads read no other kind. */
export default defineEventHandler(async (event) => {
  const project = await findProject(event), hash = getRouterParam(event, 'hash') ?? '', bytes = await bytesOf(event, 64 * 2 ** 20)
  if (pictureType(bytes) !== 'image/png') throw refuse(422, 'A decoded picture is a PNG.')
  const decoded = await putBlob(bytes, 'image/png'), db = await useDatabase()
  await db.update(pictures).set({ decoded }).where(and(eq(pictures.project, project.id), eq(pictures.hash, hash)))
  return { hash, decoded }
})
