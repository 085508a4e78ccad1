import { eq } from 'drizzle-orm'
import { projects } from '../../../../node/store/schema'
import { forgetProject } from '../../../../node/store/tidy'
import { deliveryFolder } from '../../../../node/store/places'
import { allow } from '../../../utils/people'
import { refuse } from '../../../utils/requests'
import { useStore, write } from '../../../utils/store'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

/**
 * Removes a project from the home page: it can be brought back for 30 days. With `?forever`, a removed one goes for
 * good.
 */
export default route({ may: 'work', project: 'any', lock: 'holds', does: 'removed the project' }, async event => {
  const project = projectOf(event)
  if (getQuery(event).forever !== undefined) {
    allow(event, 'manage')
    if (!project.removed) throw refuse(409, 'Only a project that was removed before can be forgotten for good.')
    event.context.did = 'deleted the project for good'
    event.context.detail = project.name
    await forgetProject(await useStore(), project.id, deliveryFolder())
    return { forgotten: true }
  }
  if (project.removed) throw refuse(404, 'There is no such project.')
  await write(rows => rows.update(projects).set({ removed: Date.now() }).where(eq(projects.id, project.id)))
  return { removed: true }
})
