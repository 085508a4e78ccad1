import { and, eq } from 'drizzle-orm'
import * as z from 'zod'
import { revisions } from '../../../../../../node/store/schema'
import { body, findProject, nameSchema } from '../../../../../utils/requests'
import { revisionInPath } from '../../../../../utils/revisions'
import { write } from '../../../../../utils/store'

/** Names a revision, which keeps it for good, or takes its name away. */
export default defineEventHandler(async event => {
  const project = await findProject(event)
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
