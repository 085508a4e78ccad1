import { removeDelivery } from '../../../../../queue/queue'
import { findDelivery } from '../../../../../queue/findDelivery'

/** Forgets a delivery and removes its files; one that runs is stopped first. */
export default defineEventHandler(async event => {
  const row = await findDelivery(event)
  await removeDelivery(row)
  return { id: row.id }
})
