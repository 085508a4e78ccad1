import { route } from '../../rights/route'
import { sendTrail } from '../../utils/trail'

/** Who did what on this server. */
export default route({ may: 'manage' }, event => sendTrail(event))
