import { tokensOf } from '../../../node/store/tokens'
import { route } from '../../rights/route'
import { allow } from '../../utils/people'
import { useRows } from '../../utils/store'

/**
 * The tokens of whoever asks, without what is secret of them. With `?all`, those of everybody, for whoever manages.
 */
export default route({ may: 'look', byHand: true }, async event => {
  const { name = '' } = allow(event, getQuery(event).all === undefined ? 'look' : 'manage')
  return tokensOf(await useRows(), getQuery(event).all === undefined ? name : undefined)
})
