import { looksOf } from '../../../utils/looks'
import { findRevision } from '../../../utils/projects'
import { lookAsked, revisionAsked } from '../../../utils/requests'
import { sendBlob } from '../../../utils/sendBlob'
import { useRows } from '../../../utils/store'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

/**
 * The picture of a project, of one of its looks (`?look=`), or of one of its revisions. Its address carries its hash
 * (`?v=`), so it may be kept for good.
 */
export default route({ may: 'look', project: 'any' }, async event => {
  const project = projectOf(event)
  const asked = revisionAsked(event)
  const look = lookAsked(event)
  let hash = project.thumbnailHash
  if (asked !== undefined) hash = (await findRevision(project.id, asked)).thumbnailHash
  else if (look) hash = (await looksOf(await useRows(), project.id)).find(l => l.id === look)?.thumbnail ?? null
  return sendBlob(event, hash, 'The project has no picture yet.', getQuery(event).v !== undefined)
})
