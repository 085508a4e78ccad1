import { and, eq } from 'drizzle-orm'
import { randomUUID } from 'node:crypto'
import { z } from 'zod'
import { deliverySchema } from '#core/deliver/settings'
import { useDatabase } from '../../../../database/client'
import { deliveries, revisions } from '../../../../database/schema'
import { deliverySummary, pump } from '../../../../utils/deliveries'
import { body, findProject, nameSchema, refuse } from '../../../../utils/requests'

const schema = z.strictObject({ name: nameSchema, revision: z.number().int().min(1), settings: deliverySchema })

/** Asks for a delivery of a saved revision. It waits until those before it are made. */
export default defineEventHandler(async (event) => {
  const project = await findProject(event), { name, revision, settings } = await body(event, schema), db = await useDatabase()
  if (!project.meshHash) throw refuse(422, 'The project has no mesh yet.')
  const [known] = await db.select({ number: revisions.number }).from(revisions).where(and(eq(revisions.project, project.id), eq(revisions.number, revision)))
  if (!known) throw refuse(422, `The project has no revision ${revision}.`)
  const [row] = await db.insert(deliveries).values({ id: randomUUID(), project: project.id, name, revision, settings: JSON.stringify(settings), asked: Date.now(), state: 'waiting', tries: 0 }).returning()
  void pump()
  return deliverySummary(row!)
})
