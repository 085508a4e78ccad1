import { eq } from 'drizzle-orm'
import { parseLook } from '#core/graph/look'
import { useDatabase } from '../../../database/client'
import { pictures } from '../../../database/schema'
import { createProject, latestRevision, preparationOf } from '../../../utils/projects'
import { findProject } from '../../../utils/requests'

export default defineEventHandler(async (event) => {
  const project = await findProject(event), revision = await latestRevision(project.id)
  const copy = await createProject(`${project.name} (copy)`.slice(0, 120), parseLook(JSON.parse(revision!.look)), preparationOf(revision), project), db = await useDatabase()
  const own = await db.select().from(pictures).where(eq(pictures.project, project.id))
  if (own.length) await db.insert(pictures).values(own.map(p => ({ ...p, project: copy.id })))
  return copy
})
