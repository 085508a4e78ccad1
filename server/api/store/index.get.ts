import { holdings } from '../../../node/store/tidy'
import { folders } from '../../utils/tidying'
import { useStore } from '../../utils/store'

/** What the server holds, and what could be freed. */
export default defineEventHandler(async () => holdings(await useStore(), folders()))
