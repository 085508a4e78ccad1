import { removeGroup } from '../../../node/store/access'
import { route } from '../../rights/route'
import { refuse } from '../../utils/requests'
import { useStore } from '../../utils/store'

/** Removes a group; what projects were open to it are so no more. */
export default route({ may: 'manage', byHand: true, does: 'removed a group' }, async event => {
  const name = decodeURIComponent(getRouterParam(event, 'name') ?? '')
  if (!(await removeGroup(await useStore(), name))) throw refuse(404, `There is no group "${name.slice(0, 100)}".`)
  event.context.detail = name
  return { name }
})
