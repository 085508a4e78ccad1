import { desc } from 'drizzle-orm'
import { useDatabase } from '../../database/client'
import { projects } from '../../database/schema'
import { summary } from '../../utils/projects'

export default defineEventHandler(async () => {
  const db = await useDatabase()
  return (await db.select().from(projects).orderBy(desc(projects.changed))).map(summary)
})
