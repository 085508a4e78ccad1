import { useDatabase } from '../../../../database/client'
import { pictures } from '../../../../database/schema'
import { putBlob } from '../../../../utils/blobs'
import { pictureType } from '../../../../utils/pictureType'
import { bytesOf, findProject, nameSchema, refuse } from '../../../../utils/requests'

const LIMIT = 64 * 2 ** 20

/** Puts a picture into a project under a name; one of the same name is replaced. */
export default defineEventHandler(async (event) => {
  const project = await findProject(event), name = nameSchema.safeParse(getQuery(event).name)
  if (!name.success) throw refuse(400, 'A picture needs a name of at most 120 characters.')
  const bytes = await bytesOf(event, LIMIT), type = pictureType(bytes)
  if (!type) throw refuse(422, `${name.data} is not a PNG, JPEG or WebP picture.`)
  const hash = await putBlob(bytes, type), db = await useDatabase(), added = Date.now()
  await db.insert(pictures).values({ project: project.id, name: name.data, hash, added }).onConflictDoUpdate({ target: [pictures.project, pictures.name], set: { hash, added, decoded: null } })
  return { name: name.data, hash }
})
