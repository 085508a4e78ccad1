import { listDeliveries } from '../../../../queue/queue'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** The deliveries of a project, the newest first, with how far they are. */
export default route({ may: 'look', project: 'present' }, async event => listDeliveries(projectOf(event).id))
