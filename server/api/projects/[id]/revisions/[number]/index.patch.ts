import { and, eq } from 'drizzle-orm'
import * as z from 'zod'
import { revisions } from '../../../../../../node/store/schema'
import { body, nameSchema } from '../../../../../utils/requests'
import { revisionInPath } from '../../../../../utils/revisions'
import { write } from '../../../../../utils/store'
import { projectOf } from '../../../../../rights/admit'
import { route } from '../../../../../rights/route'

/** Names a revision, which keeps it for good, or takes its name away. */
export default route({ may: 'work', project: 'present', lock: 'holds', does: 'named a revision' }, async event => {
  const project = projectOf(event)
  const { number } = await revisionInPath(event, project.id)
  const { name } = await body(event, z.strictObject({ name: nameSchema.nullable() }))
  await write(rows =>
    rows
      .update(revisions)
      .set({ name })
      .where(and(eq(revisions.project, project.id), eq(revisions.number, number))),
  )
  return { number, name }
})
