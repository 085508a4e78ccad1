import { findRevision, keysOf } from '../../../utils/projects'
import { findProject, revisionAsked } from '../../../utils/requests'

/** The key table of the project's mesh, or of a revision's; null where the mesh is older than key tables. */
export default defineEventHandler(async event => {
  const project = await findProject(event)
  const asked = revisionAsked(event)
  return (await keysOf(asked === undefined ? project : await findRevision(project.id, asked))) ?? null
})
