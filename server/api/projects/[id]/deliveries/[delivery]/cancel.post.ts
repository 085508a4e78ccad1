import { cancelDelivery } from '../../../../../utils/deliveries'
import { findDelivery } from '../../../../../utils/findDelivery'

/** Stops a delivery that waits or runs. */
export default defineEventHandler(async (event) => {
  const row = await findDelivery(event)
  await cancelDelivery(row)
  return { id: row.id }
})
