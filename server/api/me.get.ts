import { needsSignIn } from '../utils/addresses'

/** Who asks, and whether this server wants to know. */
export default defineEventHandler(event => {
  const { person } = event.context
  return { signIn: needsSignIn(), name: person?.name ?? null, role: person?.role ?? null }
})
