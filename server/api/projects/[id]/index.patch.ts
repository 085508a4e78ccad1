import { eq } from 'drizzle-orm'
import { z } from 'zod'
import { useDatabase } from '../../../database/client'
import { projects } from '../../../database/schema'
import { summary } from '../../../utils/projects'
import { body, findProject, nameSchema } from '../../../utils/requests'

/** Renames a project, or brings a removed one back. */
const schema = z.union([z.strictObject({ name: nameSchema }), z.strictObject({ removed: z.literal(false) })])

export default defineEventHandler(async (event) => {
  const change = await body(event, schema), project = await findProject(event, 'removed' in change), db = await useDatabase()
  const [row] = await db.update(projects).set('name' in change ? { name: change.name, changed: Date.now() } : { removed: null })
    .where(eq(projects.id, project.id)).returning()
  return summary(row!)
})
