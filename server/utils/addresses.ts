import { getHeader, type H3Event } from 'h3'

const LOOPBACK = new Set(['localhost', '127.0.0.1', '[::1]', '::1'])
const LOOPBACK_ADDRESS = /^(127\.|::1$|::ffff:127\.)/

/** The address that the server listens on: HOST, this machine's own where none is named. */
export const listensOn = (): string => process.env.NITRO_HOST ?? process.env.HOST ?? '127.0.0.1'

/** Whether a proxy stands before the server whose forwarding headers are believed (UBBLET_PROXY=1). */
export const behindProxy = (): boolean => ['1', 'true', 'yes'].includes(process.env.UBBLET_PROXY ?? '')

/** Whether those who ask must sign in: everywhere but on this machine alone. UBBLET_SIGN_IN=1 asks here, too. */
export const needsSignIn = (): boolean =>
  !LOOPBACK.has(listensOn()) || behindProxy() || process.env.UBBLET_SIGN_IN === '1'

/** The first of a list in a header that each proxy adds to at the end; the last one is ours. */
const last = (header: string | undefined): string | undefined => header?.split(',').at(-1)?.trim() || undefined

/** The address of who asks. */
export const addressOf = (event: H3Event): string =>
  (behindProxy() ? last(getHeader(event, 'x-forwarded-for')) : undefined) ?? event.node.req.socket.remoteAddress ?? ''

/** Whether who asks is on this machine, with no network between. */
export const isLocal = (event: H3Event): boolean =>
  !behindProxy() && LOOPBACK_ADDRESS.test(event.node.req.socket.remoteAddress ?? '')

/** The host name and port under which the server was asked. */
export const hostOf = (event: H3Event): string =>
  (
    (behindProxy() ? last(getHeader(event, 'x-forwarded-host')) : undefined) ??
    getHeader(event, 'host') ??
    ''
  ).toLowerCase()

/** Whether the way to the browser is encrypted. */
export const isSecure = (event: H3Event): boolean =>
  Boolean(process.env.NITRO_SSL_CERT) || (behindProxy() && last(getHeader(event, 'x-forwarded-proto')) === 'https')

/** Names of UBBLET_HOSTS: divided by commas or spaces, each with a port or for every port. */
const added = (): string[] =>
  (process.env.UBBLET_HOSTS ?? '')
    .split(/[\s,]+/)
    .filter(Boolean)
    .map(h => h.toLowerCase())

/** Whether the server answers to a host name. A rebound name of somebody else's would not be among these. */
export function answersTo(host: string): boolean {
  const name = host.replace(/:\d+$/, '')
  return LOOPBACK.has(name) || name === listensOn().toLowerCase() || added().some(h => h === name || h === host)
}

/** The policy of answers that are no page. */
export const NO_PAGE = `default-src 'none'; frame-ancestors 'none'; sandbox`

/** How often an address is decoded: more often than any proxy does. */
const DECODINGS = 3

/**
 * Whether a path, however it is spelled, means the interface to programs: with escapes, doubled or turned slashes,
 * dots, or capitals. Only the plain spelling is answered; the others are told and logged like it.
 */
export function meansApi(path: string): boolean {
  let plain = path.split(/[?#]/)[0]!
  for (let i = 0; i < DECODINGS; i++) {
    const once = plain.replace(/%([0-9a-f]{2})/gi, (_, hex: string) => String.fromCharCode(parseInt(hex, 16)))
    if (once === plain) break
    plain = once
  }
  const parts: string[] = []
  for (const part of plain.split(/[\\/]+/)) {
    if (part === '..') parts.pop()
    else if (part && part !== '.') parts.push(part)
  }
  return parts[0]?.trim().toLowerCase() === 'api'
}

/** The base without its last slash, under which the application lies; '' where that is the root. */
const base = (): string => (process.env.NUXT_APP_BASE_URL ?? '').replace(/\/+$/, '')

/** An address as it is within the application's own path. */
export const withinBase = (path: string): string => (path.startsWith(`${base()}/`) ? path.slice(base().length) : path)
