import { eq } from 'drizzle-orm'
import { projects } from '../../../node/store/schema'
import { authorOf } from '../../utils/people'
import { importInProcess } from '../../utils/importInProcess'
import { setting } from '../../utils/limits'
import { summary } from '../../utils/projects'
import { bytesOf } from '../../utils/requests'
import { useRows } from '../../utils/store'
import { route } from '../../rights/route'

/** Brings a project in from a project file, as a new project. */
export default route({ may: 'work', does: 'imported a project' }, async event => {
  const limit = setting('UBBLET_MAX_PROJECT_MEGABYTES', 2048) * 2 ** 20
  const bytes = await bytesOf(event, limit, 'The project file')
  const id = await importInProcess(event, bytes, { limit, owner: authorOf(event) })
  event.context.made = id
  const [row] = await (await useRows()).select().from(projects).where(eq(projects.id, id))
  return summary(row!)
})
