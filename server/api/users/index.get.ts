import { asc } from 'drizzle-orm'
import { users } from '../../../node/store/schema'
import { allow } from '../../utils/people'
import { useRows } from '../../utils/store'

/** Who may sign in. */
export default defineEventHandler(async event => {
  allow(event, 'manage')
  return (await useRows())
    .select({ name: users.name, role: users.role, made: users.made })
    .from(users)
    .orderBy(asc(users.name))
})
