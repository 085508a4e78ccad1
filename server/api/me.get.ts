import { needsSignIn } from '../utils/addresses'
import { route } from '../rights/route'

/** Who asks, and whether this server wants to know. */
export default route({ may: 'everybody' }, event => {
  const { person } = event.context
  return { signIn: needsSignIn(), name: person?.name ?? null, role: person?.role ?? null }
})
