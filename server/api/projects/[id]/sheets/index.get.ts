import { asc, eq } from 'drizzle-orm'
import { keptSheetSchema } from '#core/compare/keptSheet'
import { sheets } from '../../../../../node/store/schema'
import { useRows } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** The sheets that are kept in a project, by name. One that this version cannot read is left out. */
export default route({ may: 'look', project: 'present' }, async event => {
  const project = projectOf(event)
  const rows = await useRows()
  const all = await rows.select().from(sheets).where(eq(sheets.project, project.id)).orderBy(asc(sheets.name))
  return all.flatMap(({ name, saved, sheet }) => {
    const read = keptSheetSchema.safeParse(JSON.parse(sheet))
    return read.success ? [{ name, saved, sheet: read.data }] : []
  })
})
