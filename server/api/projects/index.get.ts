import { count, desc, isNull } from 'drizzle-orm'
import { looks, projects } from '../../../node/store/schema'
import { summary } from '../../utils/projects'
import { useRows } from '../../utils/store'
import { route } from '../../rights/route'

/** All projects, the last changed first, each with how many looks it has. */
export default route({ may: 'look' }, async () => {
  const rows = await useRows()
  const counted = await rows
    .select({ project: looks.project, count: count() })
    .from(looks)
    .where(isNull(looks.removed))
    .groupBy(looks.project)
  const counts = new Map(counted.map(c => [c.project, c.count]))
  const all = await rows.select().from(projects).orderBy(desc(projects.changed))
  return all.map(p => ({ ...summary(p), looks: counts.get(p.id) ?? 1 }))
})
