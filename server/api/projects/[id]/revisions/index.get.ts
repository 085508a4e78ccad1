import { desc, eq } from 'drizzle-orm'
import { revisions } from '../../../../../node/store/schema'
import { findProject } from '../../../../utils/requests'
import { useRows } from '../../../../utils/store'

/** The revisions of a project that are kept, the newest first, without what is in them. */
export default defineEventHandler(async event => {
  const project = await findProject(event)
  const rows = await useRows()
  return rows
    .select({
      number: revisions.number,
      saved: revisions.saved,
      name: revisions.name,
      author: revisions.author,
      mesh: revisions.meshHash,
      meshName: revisions.meshName,
      thumbnail: revisions.thumbnailHash,
    })
    .from(revisions)
    .where(eq(revisions.project, project.id))
    .orderBy(desc(revisions.number))
})
