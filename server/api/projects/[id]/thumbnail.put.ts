import { eq } from 'drizzle-orm'
import { useDatabase } from '../../../database/client'
import { projects } from '../../../database/schema'
import { putBlob } from '../../../utils/blobs'
import { pictureType } from '../../../utils/pictureType'
import { bytesOf, findProject, refuse } from '../../../utils/requests'

export default defineEventHandler(async (event) => {
  const project = await findProject(event), bytes = await bytesOf(event, 2 ** 20)
  if (pictureType(bytes) !== 'image/png') throw refuse(422, 'The thumbnail is not a PNG picture.')
  const hash = await putBlob(bytes, 'image/png'), db = await useDatabase()
  await db.update(projects).set({ thumbnailHash: hash }).where(eq(projects.id, project.id))
  return { thumbnail: hash }
})
