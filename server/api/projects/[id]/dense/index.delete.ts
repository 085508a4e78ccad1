import { eq } from 'drizzle-orm'
import { denseMeshes } from '../../../../../node/store/schema'
import { changeableProject, refuse } from '../../../../utils/requests'
import { write } from '../../../../utils/store'

/** Lets go of a project's dense mesh. What was taken from it stays. */
export default defineEventHandler(async event => {
  const project = await changeableProject(event)
  const gone = await write(rows =>
    rows.delete(denseMeshes).where(eq(denseMeshes.project, project.id)).returning({ name: denseMeshes.name }),
  )
  if (!gone.length) throw refuse(404, 'The project has no dense mesh.')
  return { removed: gone[0]!.name }
})
