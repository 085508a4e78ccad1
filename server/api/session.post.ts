import * as z from 'zod'
import { noted } from '../rights/admit'
import { route } from '../rights/route'
import { needsSignIn } from '../utils/addresses'
import { signIn } from '../utils/people'
import { body, refuse } from '../utils/requests'

const schema = z.strictObject({ name: z.string().max(100), password: z.string().max(400) })

/** Signs in. Too many wrong passwords make a name wait, and a network. */
export default route({ may: 'everybody', does: null }, async event => {
  if (!needsSignIn()) throw refuse(409, 'This server is used by this machine alone; nobody signs in.')
  const { name, password } = await body(event, schema)
  const person = await signIn(event, name, password)
  if (typeof person === 'number') {
    setResponseHeader(event, 'retry-after', person)
    throw refuse(429, `Too many wrong passwords; try again in ${Math.ceil(person / 60)} minutes.`)
  }
  if (!person) {
    event.context.detail = name
    await noted(event, 'tried a wrong password')
    throw refuse(401, 'Name and password do not go together.')
  }
  event.context.person = person
  await noted(event, 'signed in')
  return { signIn: true, name: person.name, role: person.role }
})
