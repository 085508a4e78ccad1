import { isSecure, NO_PAGE } from '../utils/addresses'

/** For how long a browser asks by an encrypted way only, in seconds. */
const ENCRYPTED_FOR = 365 * 86_400

/** Answers of the interface to programs are never a page, and are not kept unless they say so. */
export default defineEventHandler(event => {
  if (isSecure(event)) setResponseHeader(event, 'strict-transport-security', `max-age=${ENCRYPTED_FOR}`)
  if (!event.path.startsWith('/api/')) return
  setResponseHeader(event, 'content-security-policy', NO_PAGE)
  setResponseHeader(event, 'cache-control', 'no-store')
})
