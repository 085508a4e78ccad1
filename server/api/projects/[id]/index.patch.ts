import { eq } from 'drizzle-orm'
import * as z from 'zod'
import { projects } from '../../../../node/store/schema'
import { summary } from '../../../utils/projects'
import { body, changeableProject, findProject, nameSchema } from '../../../utils/requests'
import { write } from '../../../utils/store'

/** Renames a project, or brings a removed one back. */
const schema = z.union([z.strictObject({ name: nameSchema }), z.strictObject({ removed: z.literal(false) })])

export default defineEventHandler(async event => {
  const change = await body(event, schema)
  const project = 'removed' in change ? await findProject(event, true) : await changeableProject(event)
  const set = 'name' in change ? { name: change.name, changed: Date.now() } : { removed: null }
  const [row] = await write(rows => rows.update(projects).set(set).where(eq(projects.id, project.id)).returning())
  return summary(row!)
})
