import * as z from 'zod'
import { makeToken, MOST_DAYS, SCOPES } from '../../../node/store/tokens'
import { route } from '../../rights/route'
import { allow } from '../../utils/people'
import { body, nameSchema, refuse } from '../../utils/requests'
import { useStore } from '../../utils/store'

const schema = z.strictObject({
  title: nameSchema,
  scope: z.enum(SCOPES).default('look'),
  days: z.number().int().min(1).max(MOST_DAYS).default(90),
})

/** Makes a token for a script. It is shown in this answer, and never again. */
export default route({ may: 'look', byHand: true, does: 'made a token' }, async event => {
  const { name } = allow(event, 'look')
  if (!name) throw refuse(409, 'This server is used by this machine alone; scripts need no token.')
  const { title, scope, days } = await body(event, schema)
  event.context.detail = `${title} (${scope})`
  const made = await makeToken(await useStore(), { user: name, title, scope, days })
  return { ...made, title, scope }
})
