import { and, eq } from 'drizzle-orm'
import { sheets } from '../../../../../node/store/schema'
import { changeableProject, refuse } from '../../../../utils/requests'
import { write } from '../../../../utils/store'

/** Forgets the sheet of a name (`?name=`). */
export default defineEventHandler(async event => {
  const project = await changeableProject(event)
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
