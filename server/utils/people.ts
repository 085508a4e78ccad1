import { count, eq } from 'drizzle-orm'
import type { H3Event } from 'h3'
import { createHash, randomBytes } from 'node:crypto'
import { ROLES, secrets, tokens, users, type Role } from '../../node/store/schema'
import { verifyPassword } from '../../node/store/passwords'
import { isSecure, needsSignIn } from './addresses'
import { refuse } from './requests'
import { useRows, write } from './store'

/** Who asks. Where nobody signs in, it is whoever sits at this machine, without a name, who may do everything. */
export interface Person {
  name: string | undefined
  role: Role
}
const HERE: Person = { name: undefined, role: 'manage' }

/** How long a session lasts, in seconds; then one signs in again. */
const SESSION_LASTS = 14 * 86_400

declare module 'h3' {
  interface H3EventContext {
    person?: Person | undefined
    requestId?: string
    failure?: string
  }
}

interface SessionData {
  name?: string
  changed?: number
}

let cookieKey: Promise<string> | undefined
/** The key with which cookies are sealed, shared by all servers on one database. */
function sealingKey(): Promise<string> {
  cookieKey ??= write(async rows => {
    await rows
      .insert(secrets)
      .values({ name: 'cookies', value: randomBytes(48).toString('base64url') })
      .onConflictDoNothing()
    const [row] = await rows.select().from(secrets).where(eq(secrets.name, 'cookies'))
    return row!.value
  }).catch((error: unknown) => {
    cookieKey = undefined
    throw error
  })
  return cookieKey
}

async function session(event: H3Event) {
  const path = useRuntimeConfig().app.baseURL || '/'
  const cookie = { path, httpOnly: true, sameSite: 'lax', secure: isSecure(event) } as const
  return useSession<SessionData>(event, { name: 'ubblet', password: await sealingKey(), maxAge: SESSION_LASTS, cookie })
}

export async function peopleCount(): Promise<number> {
  const [row] = await (await useRows()).select({ n: count() }).from(users)
  return row!.n
}

export const tokenHash = (token: string): string => createHash('sha256').update(token).digest('hex')

async function byToken(token: string): Promise<Person | undefined> {
  const rows = await useRows()
  const [row] = await rows
    .select({ id: tokens.id, name: users.name, role: users.role, used: tokens.used })
    .from(tokens)
    .innerJoin(users, eq(users.name, tokens.user))
    .where(eq(tokens.hash, tokenHash(token)))
  if (!row) return undefined
  // To the minute: a script that asks often must not write often.
  const now = Date.now()
  if (now - (row.used ?? 0) > 60_000)
    void write(w => w.update(tokens).set({ used: now }).where(eq(tokens.id, row.id))).catch(() => {})
  return { name: row.name, role: row.role }
}

/** Who asks; nobody where sign-in is needed and has not happened. */
export async function personOf(event: H3Event): Promise<Person | undefined> {
  if (!needsSignIn()) return HERE
  const bearer = /^Bearer (\S{10,200})$/.exec(getHeader(event, 'authorization') ?? '')?.[1]
  if (bearer) return byToken(bearer)
  if (!getCookie(event, 'ubblet')) return undefined
  const { data } = await session(event)
  if (!data.name) return undefined
  const [user] = await (await useRows()).select().from(users).where(eq(users.name, data.name))
  return user && user.changed === data.changed ? { name: user.name, role: user.role } : undefined
}

/** A hash that no password has, so that an unknown name takes as long as a wrong password. */
const NOBODY =
  '$scrypt$n=16384,r=8,p=1$AAAAAAAAAAAAAAAAAAAAAA$' +
  'AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA'

/** Signs in for this browser. @returns nobody where name and password do not go together */
export async function signIn(event: H3Event, name: string, password: string): Promise<Person | undefined> {
  const [user] = await (await useRows()).select().from(users).where(eq(users.name, name))
  const right = await verifyPassword(user?.password ?? NOBODY, password)
  if (!user || !right) return undefined
  await (await session(event)).update({ name: user.name, changed: user.changed })
  return { name: user.name, role: user.role }
}

export async function signOut(event: H3Event): Promise<void> {
  await (await session(event)).clear()
}

/** Refuses those who may do less than `role`. */
export function allow(event: H3Event, role: Role): Person {
  const person = event.context.person
  if (!person) throw refuse(401, 'Sign in first.')
  if (ROLES.indexOf(person.role) < ROLES.indexOf(role)) {
    throw refuse(403, `This takes the role "${role}"; ${person.name ?? 'you'} has the role "${person.role}".`)
  }
  return person
}

/** The name to put on a revision or a delivery; none where nobody signs in. */
export const authorOf = (event: H3Event): string | null => event.context.person?.name ?? null
