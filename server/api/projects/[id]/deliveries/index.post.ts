import { randomUUID } from 'node:crypto'
import * as z from 'zod'
import { deliverySchema } from '#core/deliver/settings'
import { deliverySummary, pump } from '../../../../queue/queue'
import { deliveries } from '../../../../../node/store/schema'
import { authorOf } from '../../../../utils/people'
import { findRevision, picturesOf, revisionNow } from '../../../../utils/projects'
import { body, findProject, nameSchema, refuse } from '../../../../utils/requests'
import { write } from '../../../../utils/store'

const schema = z
  .strictObject({
    name: nameSchema,
    revision: z.number().int().min(1).optional(),
    look: z.uuid().optional(),
    settings: deliverySchema,
  })
  .refine(asked => (asked.revision === undefined) !== (asked.look === undefined), {
    message: 'a delivery is of a revision or of a look',
  })

/** Asks for a delivery of a saved revision, or of a look as it is now. It waits until those before it are made. */
export default defineEventHandler(async event => {
  const project = await findProject(event)
  const { name, settings, look, ...asked } = await body(event, schema)
  if (!project.meshHash) throw refuse(422, 'The project has no mesh yet.')
  const revision = look ? await write(rows => revisionNow(rows, project.id, look)) : asked.revision!
  const known = await findRevision(project.id, revision).catch(() => {
    throw refuse(422, `The project has no revision ${revision}.`)
  })
  if (!known.meshHash || !picturesOf(known)) {
    throw refuse(
      422,
      `It is not known which mesh and pictures revision ${revision} was made with; deliver the project as it is now.`,
    )
  }
  const [row] = await write(rows =>
    rows
      .insert(deliveries)
      .values({
        id: randomUUID(),
        project: project.id,
        name,
        revision,
        settings: JSON.stringify(settings),
        asked: Date.now(),
        state: 'waiting',
        tries: 0,
        author: authorOf(event),
      })
      .returning(),
  )
  void pump()
  return deliverySummary(row!)
})
