import * as z from 'zod'
import { passwordSchema, userNameSchema } from '../../../node/store/passwords'
import { addUser } from '../../../node/store/users'
import { ROLES } from '../../../node/store/schema'
import { allow } from '../../utils/people'
import { body, refuse } from '../../utils/requests'
import { useStore } from '../../utils/store'

const schema = z.strictObject({ name: userNameSchema, password: passwordSchema, role: z.enum(ROLES) })

/** Lets somebody sign in. */
export default defineEventHandler(async event => {
  allow(event, 'manage')
  const { name, password, role } = await body(event, schema)
  if (!(await addUser(await useStore(), name, password, role))) throw refuse(409, `There is a user "${name}" already.`)
  return { name, role }
})
