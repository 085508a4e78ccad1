import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'
import { sendTrail } from '../../../utils/trail'

/** Who did what to a project. */
export default route({ may: 'look', project: 'any' }, event => sendTrail(event, projectOf(event).id))
