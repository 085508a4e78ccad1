import * as z from 'zod'
import { passwordSchema } from '../../../node/store/passwords'
import { ROLES } from '../../../node/store/schema'
import { changeUser } from '../../../node/store/users'
import { allow } from '../../utils/people'
import { body, refuse } from '../../utils/requests'
import { refusedUser } from '../../utils/refusedUser'
import { useStore } from '../../utils/store'

const schema = z.strictObject({ password: passwordSchema.optional(), role: z.enum(ROLES).optional() })

/** Changes a role, or a password: one's own, or anybody's for those who manage. Sessions from before end. */
export default defineEventHandler(async event => {
  const name = decodeURIComponent(getRouterParam(event, 'name') ?? '')
  const change = await body(event, schema)
  const own = allow(event, 'look').name?.toLowerCase() === name.toLowerCase()
  if (!own || change.role) allow(event, 'manage')
  const why = await changeUser(await useStore(), name, change)
  if (why) throw refuse(...refusedUser(why, name))
  return { name }
})
