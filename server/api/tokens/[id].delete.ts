import { atLeast } from '../../rights/declare'
import { endToken } from '../../../node/store/tokens'
import { route } from '../../rights/route'
import { allow } from '../../utils/people'
import { refuse } from '../../utils/requests'
import { useStore } from '../../utils/store'

/** Ends a token of one's own; whoever manages ends anybody's. */
export default route({ may: 'look', byHand: true, does: 'ended a token' }, async event => {
  const { name = '', role } = allow(event, 'look')
  const id = getRouterParam(event, 'id') ?? ''
  if (!(await endToken(await useStore(), id, atLeast(role, 'manage') ? undefined : name)))
    throw refuse(404, 'You have no such token.')
  return { id }
})
