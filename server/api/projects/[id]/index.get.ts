import { findRevision, preparationOf, summary } from '../../../utils/projects'
import { findProject, revisionAsked } from '../../../utils/requests'

/** A project with its newest revision, or as it was in the one asked for: then with the mesh of that one. */
export default defineEventHandler(async event => {
  const project = await findProject(event)
  const asked = revisionAsked(event)
  const revision = await findRevision(project.id, asked)
  const then =
    asked === undefined
      ? {}
      : {
          mesh: revision.meshHash && { hash: revision.meshHash, name: revision.meshName ?? 'mesh.glb' },
          triangles: revision.triangles,
          parts: revision.parts,
          saved: revision.saved,
        }
  return {
    ...summary(project),
    ...then,
    revision: revision.number,
    look: JSON.parse(revision.look) as unknown,
    preparation: preparationOf(revision),
  }
})
