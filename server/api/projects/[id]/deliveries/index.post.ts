import { randomUUID } from 'node:crypto'
import * as z from 'zod'
import { deliverySchema } from '#core/deliver/settings'
import { deliverySummary, pump } from '../../../../queue/queue'
import { deliveries } from '../../../../../node/store/schema'
import type { Rows } from '../../../../../node/store/store'
import { authorOf } from '../../../../utils/people'
import { findRevision, lastSave, picturesOf, revisionNow, type Project } from '../../../../utils/projects'
import { body, nameSchema, refuse } from '../../../../utils/requests'
import { write } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

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

/** The number of a revision that is all that a look is now. A locked project gets no new one for it. */
async function revisionFor(rows: Rows, project: Project, look: string): Promise<number> {
  if (!project.locked) return revisionNow(rows, project.id, look)
  const { own, whole } = await lastSave(rows, project.id, look)
  if (whole) return own.number
  throw refuse(
    423,
    'The mesh or the pictures were changed after this look was saved last, so a delivery would add a revision, and the project is locked; unlock it first.',
  )
}

/** Asks for a delivery of a saved revision, or of a look as it is now. It waits until those before it are made. */
export default route({ may: 'work', project: 'present', lock: 'passes', does: 'asked for a delivery' }, async event => {
  const project = projectOf(event)
  const { name, settings, look, ...asked } = await body(event, schema)
  if (!project.meshHash) throw refuse(422, 'The project has no mesh yet.')
  const revision = look ? await write(rows => revisionFor(rows, project, look)) : asked.revision!
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
  event.context.detail = name
  void pump()
  return deliverySummary(row!)
})
