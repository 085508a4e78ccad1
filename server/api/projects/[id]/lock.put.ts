import { eq } from 'drizzle-orm'
import * as z from 'zod'
import { projects } from '../../../../node/store/schema'
import { allow, authorOf } from '../../../utils/people'
import { summary } from '../../../utils/projects'
import { body } from '../../../utils/requests'
import { write } from '../../../utils/store'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

/** Locks a project against changes, or unlocks it: whoever locked it may, and whoever may manage. */
export default route({ may: 'work', project: 'present', lock: 'passes', does: 'locked the project' }, async event => {
  const { locked } = await body(event, z.strictObject({ locked: z.boolean() }))
  const project = projectOf(event)
  const name = authorOf(event)
  if (!locked) event.context.did = 'unlocked the project'
  if (!locked && project.locked && project.lockedBy !== name) allow(event, 'manage')
  const set = locked
    ? { locked: project.locked ?? Date.now(), lockedBy: project.locked ? project.lockedBy : name }
    : { locked: null, lockedBy: null }
  const [row] = await write(rows => rows.update(projects).set(set).where(eq(projects.id, project.id)).returning())
  return summary(row!)
})
