import { againDelivery, deliverySummary } from '../../../../../queue/queue'
import { findDelivery } from '../../../../../queue/findDelivery'
import { route } from '../../../../../rights/route'

/** Has a delivery that failed or was stopped made after all. */
export default route(
  { may: 'work', project: 'present', lock: 'passes', does: 'had a delivery made again' },
  async event => deliverySummary(await againDelivery(await findDelivery(event))),
)
