import { groupList } from '../../../node/store/access'
import { route } from '../../rights/route'
import { useRows } from '../../utils/store'

/** Groups of people, with who is in them. */
export default route({ may: 'manage' }, async () => groupList(await useRows()))
