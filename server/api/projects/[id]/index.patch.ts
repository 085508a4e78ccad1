import { eq } from 'drizzle-orm'
import * as z from 'zod'
import { projects } from '../../../../node/store/schema'
import { summary } from '../../../utils/projects'
import { body, nameSchema, refuse } from '../../../utils/requests'
import { write } from '../../../utils/store'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

/** Renames a project, or brings a removed one back. */
const schema = z.union([z.strictObject({ name: nameSchema }), z.strictObject({ removed: z.literal(false) })])

export default route({ may: 'work', project: 'any', lock: 'holds', does: 'renamed the project' }, async event => {
  const change = await body(event, schema)
  const project = projectOf(event)
  if (project.removed && 'name' in change) throw refuse(404, 'There is no such project.')
  if ('name' in change) event.context.detail = `${project.name} → ${change.name}`
  else event.context.did = 'brought the project back'
  const set = 'name' in change ? { name: change.name, changed: Date.now() } : { removed: null }
  const [row] = await write(rows => rows.update(projects).set(set).where(eq(projects.id, project.id)).returning())
  return summary(row!)
})
