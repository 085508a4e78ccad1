import { cancelDelivery, deliverySummary } from '../../../../../queue/queue'
import { findDelivery } from '../../../../../queue/findDelivery'

/** Stops a delivery that waits or runs. */
export default defineEventHandler(async event => deliverySummary(await cancelDelivery(await findDelivery(event))))
