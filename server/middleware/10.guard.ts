import type { H3Event } from 'h3'
import { answersTo, hostOf, isSecure } from '../utils/addresses'
import { refuse } from '../utils/requests'

/** Whether an origin is that of this application's own pages. @throws H3Error where it is no origin */
function isOwn(event: H3Event, origin: string, host: string): boolean {
  if (origin === 'null') return false
  if (!URL.canParse(origin)) throw refuse(400, 'The request names an origin that is none.')
  const { protocol, host: named } = new URL(origin)
  // A page that came over an open way may have been changed on it: it does not speak for an encrypted one.
  return named.toLowerCase() === host && (protocol === 'https:' || !isSecure(event))
}

/**
 * Only this application's own pages may talk to the server. A request that names another origin is refused, and so is
 * a host name that is not one of ours, which a rebound DNS name would be.
 */
export default defineEventHandler(event => {
  const host = hostOf(event)
  if (!answersTo(host))
    throw refuse(403, `This server does not answer to the name "${host.slice(0, 200)}"; UBBLET_HOSTS adds names.`)
  const origin = getHeader(event, 'origin')
  const site = getHeader(event, 'sec-fetch-site')
  const foreignSite = event.path.startsWith('/api/') && site && site !== 'same-origin' && site !== 'none'
  if (foreignSite || (origin && !isOwn(event, origin, host)))
    throw refuse(403, 'This server answers only its own pages.')
})
