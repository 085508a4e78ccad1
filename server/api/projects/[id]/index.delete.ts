import { eq } from 'drizzle-orm'
import { projects } from '../../../../node/store/schema'
import { forgetProject } from '../../../../node/store/tidy'
import { deliveryFolder } from '../../../../node/store/places'
import { allow } from '../../../utils/people'
import { changeableProject, findProject, refuse } from '../../../utils/requests'
import { useStore, write } from '../../../utils/store'

/**
 * Removes a project from the home page: it can be brought back for 30 days. With `?forever`, a removed one goes for
 * good.
 */
export default defineEventHandler(async event => {
  if (getQuery(event).forever !== undefined) {
    allow(event, 'manage')
    const project = await findProject(event, true)
    if (!project.removed) throw refuse(409, 'Only a project that was removed before can be forgotten for good.')
    await forgetProject(await useStore(), project.id, deliveryFolder())
    return { forgotten: true }
  }
  const project = await changeableProject(event)
  await write(rows => rows.update(projects).set({ removed: Date.now() }).where(eq(projects.id, project.id)))
  return { removed: true }
})
