import { againDelivery, deliverySummary } from '../../../../../queue/queue'
import { findDelivery } from '../../../../../queue/findDelivery'

/** Has a delivery that failed or was stopped made after all. */
export default defineEventHandler(async event => deliverySummary(await againDelivery(await findDelivery(event))))
