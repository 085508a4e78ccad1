import { and, eq } from 'drizzle-orm'
import * as z from 'zod'
import { putBlob } from '../../../../../node/store/blobs'
import { pictures, revisions } from '../../../../../node/store/schema'
import { authorOf } from '../../../../utils/people'
import { checkPicture, PICTURE_BYTES } from '../../../../utils/pictures'
import { addRevision, fresh, newestRevision, picturesOf } from '../../../../utils/projects'
import { bytesOf, lookAsked, nameSchema, refuse } from '../../../../utils/requests'
import { useStore, write } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

const baseOf = z.coerce.number().int().min(1).optional()

/**
 * Puts a picture into a project under a name. A new name completes the newest revision; one that is there already is
 * replaced, in a revision of its own, so that older ones keep what they were made with.
 */
export default route({ may: 'work', project: 'present', lock: 'holds', does: 'put a picture' }, async event => {
  const project = projectOf(event)
  const query = getQuery(event)
  const named = nameSchema.safeParse(query.name)
  if (!named.success) throw refuse(400, 'A picture needs a name of at most 120 characters.')
  const base = baseOf.safeParse(query.base)
  const asked = lookAsked(event)
  if (!base.success) throw refuse(400, 'The base of a picture is the number of a revision.')
  const bytes = await bytesOf(event, PICTURE_BYTES, 'The picture')
  const name = named.data
  const hash = await putBlob(await useStore(), bytes, checkPicture(name, bytes))
  const added = Date.now()
  const revision = await write(async rows => {
    const newest = await newestRevision(rows, project.id, asked)
    await fresh(rows, newest, base.data)
    const before = picturesOf(newest) ?? []
    const there = before.find(p => p.name === name)
    await rows
      .insert(pictures)
      .values({ project: project.id, name, hash, added })
      .onConflictDoUpdate({ target: [pictures.project, pictures.name], set: { hash, added } })
    if (there?.hash === hash) return newest.number
    const now = JSON.stringify([...before.filter(p => p.name !== name), { name, hash }])
    if (there) return addRevision(rows, newest, { pictures: now, author: authorOf(event) })
    await rows
      .update(revisions)
      .set({ pictures: now })
      .where(and(eq(revisions.project, project.id), eq(revisions.number, newest.number)))
    return newest.number
  })
  return { name, hash, revision }
})
