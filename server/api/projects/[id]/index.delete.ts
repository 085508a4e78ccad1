import { eq } from 'drizzle-orm'
import { useDatabase } from '../../../database/client'
import { projects } from '../../../database/schema'
import { findProject } from '../../../utils/requests'

/** Removes a project from the home page. Nothing is lost: it can be brought back. */
export default defineEventHandler(async (event) => {
  const project = await findProject(event), db = await useDatabase()
  await db.update(projects).set({ removed: Date.now() }).where(eq(projects.id, project.id))
  return { removed: true }
})
