import { needsSignIn } from '../utils/addresses'
import { signOut } from '../utils/people'

/** Signs out in this browser. */
export default defineEventHandler(async event => {
  if (needsSignIn()) await signOut(event)
  return { signedOut: true }
})
