import { eq } from 'drizzle-orm'
import { denseMeshes } from '../../../../../node/store/schema'
import { refuse } from '../../../../utils/requests'
import { write } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** Lets go of a project's dense mesh. What was taken from it stays. */
export default route(
  { may: 'work', project: 'present', lock: 'holds', does: 'removed the dense mesh' },
  async event => {
    const project = projectOf(event)
    const gone = await write(rows =>
      rows.delete(denseMeshes).where(eq(denseMeshes.project, project.id)).returning({ name: denseMeshes.name }),
    )
    if (!gone.length) throw refuse(404, 'The project has no dense mesh.')
    return { removed: gone[0]!.name }
  },
)
