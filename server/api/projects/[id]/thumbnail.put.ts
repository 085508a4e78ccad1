import { eq } from 'drizzle-orm'
import { useDatabase } from '../../../database/client'
import { projects } from '../../../database/schema'
import { putBlob } from '../../../utils/blobs'
import { bytesOf, findProject, refuse } from '../../../utils/requests'

const PNG = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])

export default defineEventHandler(async (event) => {
  const project = await findProject(event), bytes = await bytesOf(event, 2 ** 20)
  if (!bytes.subarray(0, 8).equals(PNG)) throw refuse(422, 'The thumbnail is not a PNG picture.')
  const hash = await putBlob(bytes, 'image/png'), db = await useDatabase()
  await db.update(projects).set({ thumbnailHash: hash }).where(eq(projects.id, project.id))
  return { thumbnail: hash }
})
