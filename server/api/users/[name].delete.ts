import { removeUser } from '../../../node/store/users'
import { allow } from '../../utils/people'
import { refuse } from '../../utils/requests'
import { refusedUser } from '../../utils/refusedUser'
import { useStore } from '../../utils/store'

/** Removes a user, with sessions and tokens. */
export default defineEventHandler(async event => {
  allow(event, 'manage')
  const name = decodeURIComponent(getRouterParam(event, 'name') ?? '')
  const why = await removeUser(await useStore(), name)
  if (why) throw refuse(...refusedUser(why, name))
  return { name }
})
