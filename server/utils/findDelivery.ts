import { and, eq } from 'drizzle-orm'
import type { H3Event } from 'h3'
import { useDatabase } from '../database/client'
import { deliveries } from '../database/schema'
import type { DeliveryRow } from './deliveries'
import { findProject, refuse } from './requests'

/** The delivery named in the path, of the project named there. */
export async function findDelivery(event: H3Event): Promise<DeliveryRow> {
  const project = await findProject(event), db = await useDatabase()
  const [row] = await db.select().from(deliveries).where(and(eq(deliveries.project, project.id), eq(deliveries.id, getRouterParam(event, 'delivery') ?? '')))
  if (!row) throw refuse(404, 'There is no such delivery.')
  return row
}
