import { holdings } from '../../../node/store/tidy'
import { folders } from '../../utils/tidying'
import { useStore } from '../../utils/store'
import { route } from '../../rights/route'

/** What the server holds, and what could be freed. */
export default route({ may: 'look' }, async () => holdings(await useStore(), folders()))
