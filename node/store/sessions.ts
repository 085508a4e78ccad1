import { and, eq, gt, lte } from 'drizzle-orm'
import { createHash, randomBytes } from 'node:crypto'
import { devices, sessions, users, type Role } from './schema'
import type { Rows, Store } from './store'

/** How long a session lasts, in milliseconds; then one signs in again. */
export const SESSION_LASTS = 14 * 86_400_000
/** How long a browser stays known after somebody has signed in there, in milliseconds. */
export const DEVICE_LASTS = 365 * 86_400_000
/** The use of a token is written down once in this time, in milliseconds: a busy script must not write often. */
export const USE_NOTED_EVERY = 60_000

/** The SHA-256 of a secret, in hex. The database keeps this alone, so a stolen copy of it signs nobody in. */
export const hashOfSecret = (secret: string): string => createHash('sha256').update(secret).digest('hex')

/** 256 random bits, as text for a cookie or a header. */
export const newSecret = (): string => randomBytes(32).toString('base64url')

/** Opens a session for somebody. @returns the secret for the browser's cookie, which is kept nowhere else */
export async function openSession(store: Store, user: string, now = Date.now()): Promise<string> {
  const secret = newSecret()
  await store.write(async rows => {
    await rows.delete(sessions).where(lte(sessions.ends, now))
    await rows.insert(sessions).values({ id: hashOfSecret(secret), user, made: now, ends: now + SESSION_LASTS })
  })
  return secret
}

/** Whose session a cookie names; nobody's where it has ended. */
export async function personBySession(
  rows: Rows,
  secret: string,
  now = Date.now(),
): Promise<{ name: string; role: Role } | undefined> {
  const [found] = await rows
    .select({ name: users.name, role: users.role })
    .from(sessions)
    .innerJoin(users, eq(users.name, sessions.user))
    .where(and(eq(sessions.id, hashOfSecret(secret)), gt(sessions.ends, now)))
  return found
}

export const endSession = (store: Store, secret: string) =>
  store.write(rows => rows.delete(sessions).where(eq(sessions.id, hashOfSecret(secret))))

/** Remembers that somebody has signed in with a browser. @returns the secret for the browser's other cookie */
export async function rememberDevice(store: Store, user: string, now = Date.now()): Promise<string> {
  const secret = newSecret()
  await store.write(async rows => {
    await rows.delete(devices).where(lte(devices.made, now - DEVICE_LASTS))
    await rows.insert(devices).values({ id: hashOfSecret(secret), user, made: now })
  })
  return secret
}

/** The browser that a cookie names, if this user has signed in there before. @returns its id */
export async function deviceOf(
  rows: Rows,
  secret: string | undefined,
  user: string,
  now = Date.now(),
): Promise<string | undefined> {
  if (!secret) return undefined
  const [found] = await rows
    .select({ id: devices.id })
    .from(devices)
    .innerJoin(users, eq(users.name, devices.user))
    .where(and(eq(devices.id, hashOfSecret(secret)), eq(users.name, user), gt(devices.made, now - DEVICE_LASTS)))
  return found?.id
}
