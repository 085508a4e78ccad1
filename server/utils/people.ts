import { count, eq } from 'drizzle-orm'
import type { H3Event } from 'h3'
import { verifyPassword } from '../../node/store/passwords'
import { users, type Role } from '../../node/store/schema'
import {
  DEVICE_LASTS,
  deviceOf,
  endSession,
  openSession,
  personBySession,
  rememberDevice,
  SESSION_LASTS,
} from '../../node/store/sessions'
import { personByToken } from '../../node/store/tokens'
import { beginTry, networkOf, rightTry } from '../../node/store/tries'
import { refusalByRole, type Person } from '../rights/declare'
import { addressOf, isSecure, needsSignIn } from './addresses'
import { refuse } from './requests'
import { useRows, useStore } from './store'

const HERE: Person = { name: undefined, role: 'manage' }

/** Two cookies: one holds the session, the other marks a browser in which somebody has signed in before. */
const SESSION = 'ubblet'
const DEVICE = 'ubblet-known'

declare module 'h3' {
  interface H3EventContext {
    requestId?: string
    failure?: string
  }
}

/** How a cookie is set: for this application alone, and unseen by scripts. */
function cookie(event: H3Event, lasts: number) {
  const path = useRuntimeConfig().app.baseURL || '/'
  return { path, httpOnly: true, sameSite: 'lax', secure: isSecure(event), maxAge: lasts / 1000 } as const
}

export async function peopleCount(): Promise<number> {
  const [row] = await (await useRows()).select({ n: count() }).from(users)
  return row!.n
}

/** Who asks; nobody where sign-in is needed and has not happened. */
export async function personOf(event: H3Event): Promise<Person | undefined> {
  if (!needsSignIn()) return HERE
  const bearer = /^Bearer (\S{10,200})$/.exec(getHeader(event, 'authorization') ?? '')?.[1]
  if (bearer) return personByToken(await useStore(), bearer)
  const secret = getCookie(event, SESSION)
  return secret ? personBySession(await useRows(), secret) : undefined
}

/** A hash that no password has, so that an unknown name takes as long as a wrong password. */
const NOBODY =
  '$scrypt$n=16384,r=8,p=1$AAAAAAAAAAAAAAAAAAAAAA$' +
  'AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA'

/** Whether a password is that of a user, as it is kept. */
export async function isPassword(name: string, password: string): Promise<Person | undefined> {
  const [user] = await (await useRows()).select().from(users).where(eq(users.name, name))
  const right = await verifyPassword(user?.password ?? NOBODY, password)
  return user && right ? { name: user.name, role: user.role } : undefined
}

/**
 * Signs in for this browser.
 * @returns the seconds that must be waited before the name may be tried again, or nobody where name and password do not
 * go together
 */
export async function signIn(event: H3Event, name: string, password: string): Promise<Person | number | undefined> {
  const store = await useStore()
  const device = await deviceOf(store.rows, getCookie(event, DEVICE), name)
  const trier = { network: networkOf(addressOf(event)), name, device }
  const begun = await beginTry(store, trier)
  if (begun.wait) return begun.wait
  const person = await isPassword(name, password)
  if (!person?.name) return undefined
  await rightTry(store, trier, begun)
  setCookie(event, SESSION, await openSession(store, person.name), cookie(event, SESSION_LASTS))
  if (!device) setCookie(event, DEVICE, await rememberDevice(store, person.name), cookie(event, DEVICE_LASTS))
  return person
}

/** Ends the session of this browser, on the server too. */
export async function signOut(event: H3Event): Promise<void> {
  const secret = getCookie(event, SESSION)
  if (secret) await endSession(await useStore(), secret)
  deleteCookie(event, SESSION, cookie(event, 0))
}

/** Refuses those who may do less than `role`, in the project where the route is of one. */
export function allow(event: H3Event, role: Role): Person {
  const { person } = event.context
  if (!person) throw refuse(401, 'Sign in first.')
  const refusal = refusalByRole(role, { name: person.name, role: event.context.role ?? person.role })
  if (refusal) throw refuse(...refusal)
  return person
}

/** The name to put on a revision or a delivery; none where nobody signs in. */
export const authorOf = (event: H3Event): string | null => event.context.person?.name ?? null
