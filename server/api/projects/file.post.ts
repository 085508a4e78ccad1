import { eq } from 'drizzle-orm'
import { LookError } from '#core/graph/look'
import { PreparationError } from '#core/mesh/preparation'
import { importProject, ProjectFileError } from '../../../node/store/projectFile'
import { projects } from '../../../node/store/schema'
import { authorOf } from '../../utils/people'
import { setting } from '../../utils/limits'
import { summary } from '../../utils/projects'
import { bytesOf, refuse } from '../../utils/requests'
import { useRows, useStore } from '../../utils/store'
import { route } from '../../rights/route'

/** Brings a project in from a project file, as a new project. */
export default route({ may: 'work', does: 'imported a project' }, async event => {
  const limit = setting('UBBLET_MAX_PROJECT_MEGABYTES', 2048) * 2 ** 20
  const bytes = await bytesOf(event, limit, 'The project file')
  try {
    const id = await importProject(await useStore(), bytes, limit, authorOf(event))
    event.context.made = id
    const [row] = await (await useRows()).select().from(projects).where(eq(projects.id, id))
    return summary(row!)
  } catch (error) {
    const told = error instanceof ProjectFileError || error instanceof LookError || error instanceof PreparationError
    throw told ? refuse(422, error.message) : error
  }
})
