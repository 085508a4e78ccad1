import * as z from 'zod'
import { body } from '../../utils/requests'
import { tidyNow } from '../../utils/tidying'
import { route } from '../../rights/route'

const schema = z.strictObject({ removed: z.boolean().default(false), cache: z.boolean().default(false) })

/** Gives room back. */
export default route({ may: 'manage', does: 'tidied the server' }, async event => {
  return tidyNow(await body(event, schema))
})
