import { route } from '../rights/route'
import { needsSignIn } from '../utils/addresses'
import { signOut } from '../utils/people'

/** Signs out in this browser. */
export default route({ may: 'everybody', does: null }, async event => {
  if (needsSignIn()) await signOut(event)
  return { signedOut: true }
})
