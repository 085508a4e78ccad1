import { asc, eq } from 'drizzle-orm'
import { useDatabase } from '../../../../database/client'
import { pictures } from '../../../../database/schema'
import { findProject } from '../../../../utils/requests'

/** The pictures of a project, as they were added. */
export default defineEventHandler(async (event) => {
  const project = await findProject(event), db = await useDatabase()
  return db.select({ name: pictures.name, hash: pictures.hash, decoded: pictures.decoded }).from(pictures).where(eq(pictures.project, project.id)).orderBy(asc(pictures.added))
})
