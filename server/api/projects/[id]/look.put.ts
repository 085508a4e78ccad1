import { eq, max } from 'drizzle-orm'
import { z } from 'zod'
import { LookError, parseLook } from '#core/graph/look'
import { useDatabase } from '../../../database/client'
import { projects, revisions } from '../../../database/schema'
import { body, findProject, refuse } from '../../../utils/requests'

const schema = z.strictObject({ base: z.number().int().min(1), look: z.unknown() })

/**
 * Saves a look as the next revision. `base` names the revision it was made from; if another one has been saved since,
 * the answer is 409 with that revision's number, and nothing is written.
 */
export default defineEventHandler(async (event) => {
  const project = await findProject(event), { base, look } = await body(event, schema)
  let checked: string
  try {
    checked = JSON.stringify(parseLook(look))
  }
  catch (error) {
    throw error instanceof LookError ? refuse(400, error.message) : error
  }
  const db = await useDatabase(), now = Date.now()
  const revision = await db.transaction(async (tx) => {
    const [row] = await tx.select({ latest: max(revisions.number) }).from(revisions).where(eq(revisions.project, project.id))
    const latest = row?.latest ?? 0
    if (latest !== base) throw refuse(409, 'The project was saved somewhere else in the meantime.', { revision: latest })
    await tx.insert(revisions).values({ project: project.id, number: latest + 1, saved: now, look: checked })
    await tx.update(projects).set({ changed: now }).where(eq(projects.id, project.id))
    return latest + 1
  })
  return { revision }
})
