import { findRevision } from '../../../utils/projects'
import { findProject, revisionAsked } from '../../../utils/requests'
import { sendBlob } from '../../../utils/sendBlob'

/** The key table of the project's mesh, or of a revision's; nothing where the mesh is older than key tables. */
export default defineEventHandler(async event => {
  const project = await findProject(event)
  const asked = revisionAsked(event)
  const { keysHash } = asked === undefined ? project : await findRevision(project.id, asked)
  // As it was written: whoever reads it checks it.
  return keysHash ? sendBlob(event, keysHash, 'The table of keys is not there.', false) : null
})
