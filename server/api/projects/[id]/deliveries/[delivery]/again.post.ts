import { eq } from 'drizzle-orm'
import { useDatabase } from '../../../../../database/client'
import { deliveries } from '../../../../../database/schema'
import { pump } from '../../../../../utils/deliveries'
import { findDelivery } from '../../../../../utils/findDelivery'
import { refuse } from '../../../../../utils/requests'

/** Has a delivery that failed or was stopped made after all. */
export default defineEventHandler(async (event) => {
  const row = await findDelivery(event), db = await useDatabase()
  if (row.state !== 'failed' && row.state !== 'canceled') throw refuse(409, 'This delivery neither failed nor was stopped.')
  await db.update(deliveries).set({ state: 'waiting', tries: 0, message: null }).where(eq(deliveries.id, row.id))
  void pump()
  return { id: row.id }
})
