import * as z from 'zod'
import { passwordSchema, userNameSchema, weakness } from '../../../node/store/passwords'
import { addUser } from '../../../node/store/users'
import { ROLES } from '../../../node/store/schema'
import { body, refuse } from '../../utils/requests'
import { useStore } from '../../utils/store'
import { route } from '../../rights/route'

const schema = z.strictObject({ name: userNameSchema, password: passwordSchema, role: z.enum(ROLES) })

/** Lets somebody sign in. */
export default route({ may: 'manage', byHand: true, does: 'added a user' }, async event => {
  const { name, password, role } = await body(event, schema)
  const weak = await weakness(password, name)
  if (weak) throw refuse(422, weak)
  event.context.detail = `${name} (${role})`
  if (!(await addUser(await useStore(), name, password, role))) throw refuse(409, `There is a user "${name}" already.`)
  return { name, role }
})
