import { cancelDelivery, deliverySummary } from '../../../../../queue/queue'
import { findDelivery } from '../../../../../queue/findDelivery'
import { route } from '../../../../../rights/route'

/** Stops a delivery that waits or runs. */
export default route({ may: 'work', project: 'present', lock: 'passes', does: 'stopped a delivery' }, async event =>
  deliverySummary(await cancelDelivery(await findDelivery(event))),
)
