import { limits } from '../utils/limits'
import { route } from '../rights/route'

/** What a mesh file may hold, so that the interface can say so before it begins. */
export default route({ may: 'look' }, () => limits())
