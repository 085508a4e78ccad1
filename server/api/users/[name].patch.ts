import * as z from 'zod'
import { passwordSchema, weakness } from '../../../node/store/passwords'
import { ROLES } from '../../../node/store/schema'
import { changeUser } from '../../../node/store/users'
import { route } from '../../rights/route'
import { allow, isPassword } from '../../utils/people'
import { refusedUser } from '../../utils/refusedUser'
import { body, refuse } from '../../utils/requests'
import { useStore } from '../../utils/store'

const schema = z.strictObject({
  password: passwordSchema.optional(),
  /** The password until now, where one's own is changed. */
  before: z.string().max(400).optional(),
  role: z.enum(ROLES).optional(),
})

/**
 * Changes a role, or a password: one's own, or anybody's for those who manage. Sessions from before end, and with a new
 * password tokens, too.
 */
export default route({ may: 'look', byHand: true, does: 'changed a user' }, async event => {
  const name = decodeURIComponent(getRouterParam(event, 'name') ?? '')
  const { before, ...change } = await body(event, schema)
  const own = allow(event, 'look').name?.toLowerCase() === name.toLowerCase()
  if (!own || change.role) allow(event, 'manage')
  if (own && change.password !== undefined && !(await isPassword(name, before ?? '')))
    throw refuse(403, 'Your password until now is not right.')
  const weak = change.password === undefined ? undefined : await weakness(change.password, name)
  if (weak) throw refuse(422, weak)
  const why = await changeUser(await useStore(), name, change)
  if (why) throw refuse(...refusedUser(why, name))
  const role = change.role ? [`role ${change.role}`] : []
  const password = change.password === undefined ? [] : ['password']
  event.context.detail = `${name}: ${[...role, ...password].join(', ')}`
  return { name }
})
