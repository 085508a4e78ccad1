import * as z from 'zod'
import { keptSheetSchema } from '#core/compare/keptSheet'
import { sheets } from '../../../../../node/store/schema'
import { body, nameSchema } from '../../../../utils/requests'
import { write } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** Keeps a sheet in a project under a name; one of that name is replaced. */
export default route({ may: 'work', project: 'present', lock: 'holds', does: 'kept a sheet' }, async event => {
  const project = projectOf(event)
  const { name, sheet } = await body(event, z.strictObject({ name: nameSchema, sheet: keptSheetSchema }))
  const kept = { sheet: JSON.stringify(sheet), saved: Date.now() }
  await write(rows =>
    rows
      .insert(sheets)
      .values({ project: project.id, name, ...kept })
      .onConflictDoUpdate({ target: [sheets.project, sheets.name], set: kept }),
  )
  return { name, saved: kept.saved, sheet }
})
