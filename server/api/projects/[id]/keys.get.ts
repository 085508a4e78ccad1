import { findRevision } from '../../../utils/projects'
import { revisionAsked } from '../../../utils/requests'
import { sendBlob } from '../../../utils/sendBlob'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

/** The key table of the project's mesh, or of a revision's; nothing where the mesh is older than key tables. */
export default route({ may: 'look', project: 'present' }, async event => {
  const project = projectOf(event)
  const asked = revisionAsked(event)
  const { keysHash } = asked === undefined ? project : await findRevision(project.id, asked)
  // As it was written: whoever reads it checks it.
  return keysHash ? sendBlob(event, keysHash, 'The table of keys is not there.', false) : null
})
