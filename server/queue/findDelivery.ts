import { and, eq } from 'drizzle-orm'
import type { H3Event } from 'h3'
import type { DeliveryRow } from './lease'
import { deliveries } from '../../node/store/schema'
import { findProject, refuse } from '../utils/requests'
import { useRows } from '../utils/store'

/** The delivery named in the path, of the project named there. */
export async function findDelivery(event: H3Event): Promise<DeliveryRow> {
  const project = await findProject(event)
  const id = getRouterParam(event, 'delivery') ?? ''
  const [row] = await (
    await useRows()
  )
    .select()
    .from(deliveries)
    .where(and(eq(deliveries.project, project.id), eq(deliveries.id, id)))
  if (!row) throw refuse(404, 'There is no such delivery.')
  return row
}
