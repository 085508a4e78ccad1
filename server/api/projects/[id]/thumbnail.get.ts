import { findRevision } from '../../../utils/projects'
import { findProject, revisionAsked } from '../../../utils/requests'
import { sendBlob } from '../../../utils/sendBlob'

/** The picture of a project, or of one of its revisions. Its address carries its hash (`?v=`), so it may be kept for good. */
export default defineEventHandler(async event => {
  const project = await findProject(event, true)
  const asked = revisionAsked(event)
  const { thumbnailHash } = asked === undefined ? project : await findRevision(project.id, asked)
  return sendBlob(event, thumbnailHash, 'The project has no picture yet.', getQuery(event).v !== undefined)
})
