import * as z from 'zod'
import { addressOf, needsSignIn } from '../utils/addresses'
import { signIn } from '../utils/people'
import { body, refuse } from '../utils/requests'
import { mustWait, triedInVain, triedRightly } from '../utils/tries'

const schema = z.strictObject({ name: z.string().max(100), password: z.string().max(400) })

/** Signs in. Too many wrong passwords make name and address wait. */
export default defineEventHandler(async event => {
  if (!needsSignIn()) throw refuse(409, 'This server is used by this machine alone; nobody signs in.')
  const { name, password } = await body(event, schema)
  const address = addressOf(event)
  const seconds = mustWait(address, name)
  if (seconds) {
    setResponseHeader(event, 'retry-after', seconds)
    throw refuse(429, `Too many wrong passwords; try again in ${Math.ceil(seconds / 60)} minutes.`)
  }
  // Counted before the password is looked at, so that many at once do not all slip through.
  triedInVain(address, name)
  const person = await signIn(event, name, password)
  if (!person) throw refuse(401, 'Name and password do not go together.')
  triedRightly(address, name)
  return { signIn: true, ...person }
})
