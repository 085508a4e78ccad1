import { refuse } from '../utils/requests'

const LOOPBACK = new Set(['localhost', '127.0.0.1', '[::1]'])

/**
 * Only this application's own pages may talk to the server. A request that names another origin is refused, and so is
 * a host name that is not the one we listen on, which a rebound DNS name would be. UBBLET_HOSTS adds names.
 */
export default defineEventHandler((event) => {
  const host = getHeader(event, 'host') ?? ''
  const name = host.replace(/:\d+$/, '')
  const allowed = new Set([...LOOPBACK, ...(process.env.UBBLET_HOSTS ?? '').split(',').filter(Boolean)])
  if (!allowed.has(name)) throw refuse(403, `This server does not answer to the name "${name}".`)
  const origin = getHeader(event, 'origin')
  const site = getHeader(event, 'sec-fetch-site')
  if ((origin && new URL(origin, 'http://invalid').host !== host) || (event.path.startsWith('/api/') && site && site !== 'same-origin' && site !== 'none')) {
    throw refuse(403, 'This server answers only its own pages.')
  }
})
