import { listDeliveries } from '../../../../queue/queue'
import { findProject } from '../../../../utils/requests'

/** The deliveries of a project, the newest first, with how far they are. */
export default defineEventHandler(async event => listDeliveries((await findProject(event)).id))
