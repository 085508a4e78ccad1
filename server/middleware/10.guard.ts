import { answersTo, hostOf } from '../utils/addresses'
import { refuse } from '../utils/requests'

/** The host that an origin names. @throws H3Error where it is no origin */
function hostOfOrigin(origin: string): string {
  if (origin === 'null') return ''
  if (!URL.canParse(origin)) throw refuse(400, 'The request names an origin that is none.')
  return new URL(origin).host.toLowerCase()
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
  if (foreignSite || (origin && hostOfOrigin(origin) !== host))
    throw refuse(403, 'This server answers only its own pages.')
})
