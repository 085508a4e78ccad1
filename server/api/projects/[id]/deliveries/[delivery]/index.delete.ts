import { removeDelivery } from '../../../../../queue/queue'
import { findDelivery } from '../../../../../queue/findDelivery'
import { route } from '../../../../../rights/route'

/** Forgets a delivery and removes its files; one that runs is stopped first. */
export default route({ may: 'work', project: 'present', lock: 'holds', does: 'deleted a delivery' }, async event => {
  const row = await findDelivery(event)
  await removeDelivery(row)
  return { id: row.id }
})
