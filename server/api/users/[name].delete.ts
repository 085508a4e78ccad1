import { removeUser } from '../../../node/store/users'
import { refuse } from '../../utils/requests'
import { refusedUser } from '../../utils/refusedUser'
import { useStore } from '../../utils/store'
import { route } from '../../rights/route'

/** Removes a user, with sessions and tokens. */
export default route({ may: 'manage', byHand: true, does: 'removed a user' }, async event => {
  const name = decodeURIComponent(getRouterParam(event, 'name') ?? '')
  event.context.detail = name
  const why = await removeUser(await useStore(), name)
  if (why) throw refuse(...refusedUser(why, name))
  return { name }
})
