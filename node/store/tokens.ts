import { and, asc, eq } from 'drizzle-orm'
import { randomUUID } from 'node:crypto'
import { ROLES, tokens, users, type Role } from './schema'
import { hashOfSecret, newSecret, USE_NOTED_EVERY } from './sessions'
import type { Rows, Store } from './store'

/** What a token may do: at most this, and never more than its user. */
export const SCOPES = ['look', 'work'] as const
export type Scope = (typeof SCOPES)[number]

const DAY = 86_400_000
/** For how many days a token may be made. */
export const MOST_DAYS = 366

export interface NewToken {
  user: string
  title: string
  scope: Scope
  /** For how many days, 1 to MOST_DAYS. */
  days: number
}

/** Makes a token for a script. @returns its id, when it ends, and its text, which is kept nowhere else */
export async function makeToken(store: Store, { days, ...wanted }: NewToken, now = Date.now()) {
  const token = `ub_${newSecret()}`
  const row = { ...wanted, id: randomUUID(), hash: hashOfSecret(token), made: now, ends: now + days * DAY }
  await store.write(rows => rows.insert(tokens).values(row))
  return { id: row.id, ends: row.ends, token }
}

/** The lesser of two roles. */
export const lesser = (a: Role, b: Role): Role => (ROLES.indexOf(a) < ROLES.indexOf(b) ? a : b)

/**
 * Whose token a text is, with the role that it has: the lesser of its scope and of its user's role. Nobody's where it
 * has ended. Its use is written down to the minute.
 */
export async function personByToken(store: Store, text: string, now = Date.now()) {
  const [found] = await store.rows
    .select({
      token: tokens.id,
      scope: tokens.scope,
      ends: tokens.ends,
      used: tokens.used,
      name: users.name,
      role: users.role,
    })
    .from(tokens)
    .innerJoin(users, eq(users.name, tokens.user))
    .where(eq(tokens.hash, hashOfSecret(text)))
  if (!found || found.ends <= now) return undefined
  const { token, scope, name } = found
  if (now - (found.used ?? 0) >= USE_NOTED_EVERY)
    void store.write(rows => rows.update(tokens).set({ used: now }).where(eq(tokens.id, token))).catch(() => {})
  return { name, role: lesser(found.role, scope), scope, token }
}

/** The tokens of one user, or of all, without what is secret of them. */
export async function tokensOf(rows: Rows, user?: string) {
  const { id, user: owner, title, scope, made, used, ends } = tokens
  return rows
    .select({ id, user: owner, title, scope, made, used, ends })
    .from(tokens)
    .where(user === undefined ? undefined : eq(tokens.user, user))
    .orderBy(asc(tokens.user), asc(tokens.made))
}

/** Ends a token. @param user whose it must be, where it may not be anybody's. @returns whether there was one */
export async function endToken(store: Store, id: string, user?: string): Promise<boolean> {
  const own = user === undefined ? undefined : eq(tokens.user, user)
  const gone = await store.write(rows =>
    rows
      .delete(tokens)
      .where(and(eq(tokens.id, id), own))
      .returning({ id: tokens.id }),
  )
  return gone.length > 0
}
