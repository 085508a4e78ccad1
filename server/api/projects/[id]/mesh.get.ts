import { findRevision } from '../../../utils/projects'
import { findProject, revisionAsked } from '../../../utils/requests'
import { sendBlob } from '../../../utils/sendBlob'

/** The mesh file of a project, or of the revision asked for. */
export default defineEventHandler(async event => {
  const project = await findProject(event)
  const asked = revisionAsked(event)
  const { meshHash } = asked === undefined ? project : await findRevision(project.id, asked)
  return sendBlob(event, meshHash, 'The project has no mesh yet.', false)
})
