import { allow, personOf } from '../utils/people'

/** What is answered to everybody: whether the server is well, and signing in itself. */
const OPEN = /^\/api\/(health|me|session)([/?]|$)/

/** What concerns only who asks: their presence, password and tokens. */
const OWN = /^\/api\/(projects\/[^/]+\/presence|users\/[^/]+|tokens)([/?]|$)/

/** Finds out who asks, and refuses who may not: whoever may look asks, whoever may work changes. */
export default defineEventHandler(async event => {
  if (!event.path.startsWith('/api/')) return
  event.context.person = await personOf(event)
  if (OPEN.test(event.path)) return
  const looks = event.method === 'GET' || event.method === 'HEAD' || OWN.test(event.path)
  allow(event, looks ? 'look' : 'work')
})
