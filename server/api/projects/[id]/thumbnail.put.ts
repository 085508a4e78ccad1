import { and, eq } from 'drizzle-orm'
import { putBlob } from '../../../../node/store/blobs'
import { looks, projects, revisions } from '../../../../node/store/schema'
import { lastSave } from '../../../utils/projects'
import { pictureKind } from '../../../utils/pictures'
import { bytesOf, lookAsked, refuse, revisionAsked } from '../../../utils/requests'
import { useStore, write } from '../../../utils/store'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

/**
 * Keeps the picture of a project, of the look that it shows (`?look=`), and of the revision (`?revision=`) that was
 * drawn: where the project was saved after the look, that is the last save of the look.
 */
export default route({ may: 'work', project: 'present', lock: 'holds', does: null }, async event => {
  const project = projectOf(event)
  const revision = revisionAsked(event)
  const look = lookAsked(event)
  const bytes = await bytesOf(event, 2 ** 20, 'The thumbnail')
  if (pictureKind(bytes)?.type !== 'image/png') throw refuse(422, 'The thumbnail is not a PNG picture.')
  const thumbnailHash = await putBlob(await useStore(), bytes, 'image/png')
  await write(async rows => {
    await rows.update(projects).set({ thumbnailHash }).where(eq(projects.id, project.id))
    const ofProject = look ? and(eq(looks.project, project.id), eq(looks.id, look)) : undefined
    if (ofProject) await rows.update(looks).set({ thumbnailHash }).where(ofProject)
    if (revision === undefined) return
    const { own, whole } = look ? await lastSave(rows, project.id, look) : { own: undefined, whole: false }
    const number = own && whole && own.number < revision ? own.number : revision
    const shown = and(eq(revisions.project, project.id), eq(revisions.number, number))
    await rows
      .update(revisions)
      .set({ thumbnailHash })
      .where(look ? and(shown, eq(revisions.lookId, look)) : shown)
  })
  return { thumbnail: thumbnailHash }
})
