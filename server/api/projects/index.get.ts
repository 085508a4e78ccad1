import { count, desc, isNull } from 'drizzle-orm'
import { visible } from '../../../node/store/access'
import { looks, projects } from '../../../node/store/schema'
import { summary } from '../../utils/projects'
import { useRows } from '../../utils/store'
import { route } from '../../rights/route'

/** The projects that are open to whoever asks, the last changed first, each with how many looks it has. */
export default route({ may: 'look' }, async event => {
  const rows = await useRows()
  const counted = await rows
    .select({ project: looks.project, count: count() })
    .from(looks)
    .where(isNull(looks.removed))
    .groupBy(looks.project)
  const counts = new Map(counted.map(c => [c.project, c.count]))
  const all = await rows.select().from(projects).orderBy(desc(projects.changed))
  const own = await visible(rows, all, event.context.person!)
  return own.map(p => ({ ...summary(p), role: p.role, looks: counts.get(p.id) ?? 1 }))
})
