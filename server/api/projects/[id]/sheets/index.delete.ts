import { and, eq } from 'drizzle-orm'
import { sheets } from '../../../../../node/store/schema'
import { refuse } from '../../../../utils/requests'
import { write } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** Forgets the sheet of a name (`?name=`). */
export default route({ may: 'work', project: 'present', lock: 'holds', does: 'deleted a sheet' }, async event => {
  const project = projectOf(event)
  const name = String(getQuery(event).name ?? '')
  const [gone] = await write(rows =>
    rows
      .delete(sheets)
      .where(and(eq(sheets.project, project.id), eq(sheets.name, name)))
      .returning({ name: sheets.name }),
  )
  if (!gone) throw refuse(404, 'The project has no sheet of that name.')
  return gone
})
