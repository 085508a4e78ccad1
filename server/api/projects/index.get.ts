import { desc } from 'drizzle-orm'
import { projects } from '../../../node/store/schema'
import { summary } from '../../utils/projects'
import { useRows } from '../../utils/store'

export default defineEventHandler(async () => {
  const rows = await useRows()
  return (await rows.select().from(projects).orderBy(desc(projects.changed))).map(summary)
})
