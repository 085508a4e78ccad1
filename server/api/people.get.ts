import { groupList } from '../../node/store/access'
import { users } from '../../node/store/schema'
import { route } from '../rights/route'
import { useRows } from '../utils/store'

/** The names of people and groups, for those who say whom a project is open to. */
export default route({ may: 'look' }, async () => {
  const rows = await useRows()
  const people = await rows.select({ name: users.name }).from(users).orderBy(users.name)
  return { users: people.map(p => p.name), groups: (await groupList(rows)).map(g => g.name) }
})
