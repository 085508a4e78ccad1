import { and, eq } from 'drizzle-orm'
import { putBlob } from '../../../../node/store/blobs'
import { projects, revisions } from '../../../../node/store/schema'
import { pictureKind } from '../../../utils/pictures'
import { bytesOf, findProject, refuse, revisionAsked } from '../../../utils/requests'
import { useStore, write } from '../../../utils/store'

/** Keeps the picture of a project, and of the revision that it shows. */
export default defineEventHandler(async event => {
  const project = await findProject(event)
  const revision = revisionAsked(event)
  const bytes = await bytesOf(event, 2 ** 20, 'The thumbnail')
  if (pictureKind(bytes)?.type !== 'image/png') throw refuse(422, 'The thumbnail is not a PNG picture.')
  const thumbnailHash = await putBlob(await useStore(), bytes, 'image/png')
  await write(async rows => {
    await rows.update(projects).set({ thumbnailHash }).where(eq(projects.id, project.id))
    if (revision)
      await rows
        .update(revisions)
        .set({ thumbnailHash })
        .where(and(eq(revisions.project, project.id), eq(revisions.number, revision)))
  })
  return { thumbnail: thumbnailHash }
})
