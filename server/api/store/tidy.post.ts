import * as z from 'zod'
import { allow } from '../../utils/people'
import { body } from '../../utils/requests'
import { tidyNow } from '../../utils/tidying'

const schema = z.strictObject({ removed: z.boolean().default(false), cache: z.boolean().default(false) })

/** Gives room back. */
export default defineEventHandler(async event => {
  allow(event, 'manage')
  return tidyNow(await body(event, schema))
})
