import { findRevision } from '../../../utils/projects'
import { revisionAsked } from '../../../utils/requests'
import { sendBlob } from '../../../utils/sendBlob'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

/** The mesh file of a project, or of the revision asked for. */
export default route({ may: 'look', project: 'present' }, async event => {
  const project = projectOf(event)
  const asked = revisionAsked(event)
  const { meshHash } = asked === undefined ? project : await findRevision(project.id, asked)
  return sendBlob(event, meshHash, 'The project has no mesh yet.', false)
})
