import { and, eq } from 'drizzle-orm'
import { lights } from '../../../../../node/store/schema'
import { refuse } from '../../../../utils/requests'
import { write } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** Lets go of a picture of light; its file goes with the next tidying, where nothing else names it. */
export default route(
  { may: 'work', project: 'present', lock: 'holds', does: 'removed a picture of light' },
  async event => {
    const project = projectOf(event)
    const hash = getRouterParam(event, 'hash') ?? ''
    const gone = await write(rows =>
      rows
        .delete(lights)
        .where(and(eq(lights.project, project.id), eq(lights.hash, hash)))
        .returning({ name: lights.name }),
    )
    if (!gone.length) throw refuse(404, 'The project has no such picture of light.')
    return { removed: gone.length }
  },
)
