import { asc } from 'drizzle-orm'
import { users } from '../../../node/store/schema'
import { useRows } from '../../utils/store'
import { route } from '../../rights/route'

/** Who may sign in. */
export default route({ may: 'manage' }, async () => {
  return (await useRows())
    .select({ name: users.name, role: users.role, made: users.made })
    .from(users)
    .orderBy(asc(users.name))
})
