import { looksOf } from '../../../utils/looks'
import { findRevision, lastSave, preparationOf, summary } from '../../../utils/projects'
import { lookAsked, revisionAsked } from '../../../utils/requests'
import { useRows } from '../../../utils/store'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

/**
 * A project with one of its looks (`?look=`; the one saved last where none is named) as it is now, or as it was in the
 * revision asked for: then with the mesh of that one. `pictured` tells whether there is a picture of all that the look
 * is now.
 */
export default route({ may: 'look', project: 'present' }, async event => {
  const project = projectOf(event)
  const asked = revisionAsked(event)
  const revision = await findRevision(project.id, asked, lookAsked(event))
  const then =
    asked === undefined
      ? {}
      : {
          mesh: revision.meshHash && { hash: revision.meshHash, name: revision.meshName ?? 'mesh.glb' },
          triangles: revision.triangles,
          parts: revision.parts,
          saved: revision.saved,
        }
  const rows = await useRows()
  const { own, whole } = await lastSave(rows, project.id, revision.lookId)
  return {
    ...summary(project),
    ...then,
    role: event.context.role,
    looks: await looksOf(rows, project.id),
    pictured: whole && own.thumbnailHash !== null,
    lookId: revision.lookId,
    revision: revision.number,
    look: JSON.parse(revision.look) as unknown,
    preparation: preparationOf(revision),
  }
})
