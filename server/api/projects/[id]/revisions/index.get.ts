import { and, desc, eq } from 'drizzle-orm'
import { revisions } from '../../../../../node/store/schema'
import { lookAsked } from '../../../../utils/requests'
import { useRows } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/**
 * The revisions that are kept of a project, or of one of its looks (`?look=`), the newest first, without what is in
 * them.
 */
export default route({ may: 'look', project: 'present' }, async event => {
  const project = projectOf(event)
  const asked = lookAsked(event)
  const rows = await useRows()
  return rows
    .select({
      number: revisions.number,
      look: revisions.lookId,
      saved: revisions.saved,
      name: revisions.name,
      author: revisions.author,
      mesh: revisions.meshHash,
      meshName: revisions.meshName,
      thumbnail: revisions.thumbnailHash,
    })
    .from(revisions)
    .where(and(eq(revisions.project, project.id), asked ? eq(revisions.lookId, asked) : undefined))
    .orderBy(desc(revisions.number))
})
