import { desc, eq } from 'drizzle-orm'
import { z } from 'zod'
import { LookError, parseLook } from '#core/graph/look'
import { parsePreparation, PreparationError } from '#core/mesh/preparation'
import { useDatabase } from '../../../database/client'
import { projects, revisions } from '../../../database/schema'
import { body, findProject, refuse } from '../../../utils/requests'

const schema = z.strictObject({ base: z.number().int().min(1), look: z.unknown(), preparation: z.unknown().optional() })

/**
 * Saves a look and the mesh's preparation (as it was, where none is sent) as the next revision. `base` names the revision it was made from; if another one has been saved since,
 * the answer is 409 with that revision's number, and nothing is written.
 */
export default defineEventHandler(async (event) => {
  const project = await findProject(event), { base, look, preparation } = await body(event, schema)
  let checked: string, prepared: string | undefined
  try {
    checked = JSON.stringify(parseLook(look))
    prepared = preparation === undefined ? undefined : JSON.stringify(parsePreparation(preparation))
  }
  catch (error) {
    throw error instanceof LookError || error instanceof PreparationError ? refuse(400, error.message) : error
  }
  const db = await useDatabase(), now = Date.now()
  const revision = await db.transaction(async (tx) => {
    const [row] = await tx.select({ latest: revisions.number, preparation: revisions.preparation }).from(revisions).where(eq(revisions.project, project.id)).orderBy(desc(revisions.number)).limit(1)
    const latest = row?.latest ?? 0
    if (latest !== base) throw refuse(409, 'The project was saved somewhere else in the meantime.', { revision: latest })
    await tx.insert(revisions).values({ project: project.id, number: latest + 1, saved: now, look: checked, preparation: prepared ?? row?.preparation ?? null })
    await tx.update(projects).set({ changed: now }).where(eq(projects.id, project.id))
    return latest + 1
  })
  return { revision }
})
