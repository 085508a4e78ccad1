import { useDatabase } from '../../../../database/client'
import { pictures } from '../../../../database/schema'
import { putBlob } from '../../../../utils/blobs'
import { bytesOf, findProject, nameSchema, refuse } from '../../../../utils/requests'

/** Kinds of pictures by how their bytes begin: what every browser reads. */
const KINDS: [type: string, begins: (b: Buffer) => boolean][] = [
  ['image/png', b => b.subarray(0, 8).equals(Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]))],
  ['image/jpeg', b => b[0] === 0xff && b[1] === 0xd8 && b[2] === 0xff],
  ['image/webp', b => b.toString('latin1', 0, 4) === 'RIFF' && b.toString('latin1', 8, 12) === 'WEBP'],
]
const LIMIT = 64 * 2 ** 20

/** Puts a picture into a project under a name; one of the same name is replaced. */
export default defineEventHandler(async (event) => {
  const project = await findProject(event), name = nameSchema.safeParse(getQuery(event).name)
  if (!name.success) throw refuse(400, 'A picture needs a name of at most 120 characters.')
  const bytes = await bytesOf(event, LIMIT), type = KINDS.find(([, begins]) => begins(bytes))?.[0]
  if (!type) throw refuse(422, `${name.data} is not a PNG, JPEG or WebP picture.`)
  const hash = await putBlob(bytes, type), db = await useDatabase(), added = Date.now()
  await db.insert(pictures).values({ project: project.id, name: name.data, hash, added }).onConflictDoUpdate({ target: [pictures.project, pictures.name], set: { hash, added } })
  return { name: name.data, hash }
})
