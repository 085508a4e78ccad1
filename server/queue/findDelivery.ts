import { and, eq } from 'drizzle-orm'
import type { H3Event } from 'h3'
import type { DeliveryRow } from './lease'
import { deliveries } from '../../node/store/schema'
import { refuse } from '../utils/requests'
import { projectOf } from '../rights/admit'
import { useRows } from '../utils/store'

/** The delivery named in the path, of the project named there. */
export async function findDelivery(event: H3Event): Promise<DeliveryRow> {
  const project = projectOf(event)
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
