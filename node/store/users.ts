import { and, eq, ne } from 'drizzle-orm'
import { hashPassword } from './passwords'
import { devices, grants, members, sessions, tokens, users, type Role } from './schema'
import type { Rows, Store } from './store'
import { forgetTries } from './tries'

/** Lets somebody sign in. @returns whether the name was free */
export async function addUser(store: Store, name: string, password: string, role: Role): Promise<boolean> {
  const now = Date.now()
  const row = { name, password: await hashPassword(password), role, made: now, changed: now }
  const added = await store.write(rows =>
    rows.insert(users).values(row).onConflictDoNothing().returning({ name: users.name }),
  )
  return added.length > 0
}

export interface UserChange {
  password?: string | undefined
  role?: Role | undefined
}
export type Refusal = 'unknown' | 'last'

/**
 * The user of a name who is about to lose a role, unless it is the last who may manage. Within a write, so two who
 * manage and demote each other at once cannot both succeed.
 */
async function losing(rows: Rows, name: string, loses: boolean): Promise<{ name: string } | Refusal> {
  const [user] = await rows.select({ name: users.name, role: users.role }).from(users).where(eq(users.name, name))
  if (!user) return 'unknown'
  if (!loses || user.role !== 'manage') return user
  const others = await rows
    .select({ name: users.name })
    .from(users)
    .where(and(eq(users.role, 'manage'), ne(users.name, user.name)))
    .limit(1)
  return others.length ? user : 'last'
}

/**
 * Changes a password or a role. Every change ends the user's sessions. A new password also ends the tokens, and the
 * wait after wrong passwords.
 * @returns why not, where it cannot be
 */
export async function changeUser(
  store: Store,
  name: string,
  { password, role }: UserChange,
): Promise<Refusal | undefined> {
  const set = {
    changed: Date.now(),
    ...(role && { role }),
    ...(password !== undefined && { password: await hashPassword(password) }),
  }
  return store.write(async rows => {
    const user = await losing(rows, name, role !== undefined && role !== 'manage')
    if (typeof user === 'string') return user
    await rows.update(users).set(set).where(eq(users.name, user.name))
    await rows.delete(sessions).where(eq(sessions.user, user.name))
    if (password !== undefined) {
      await rows.delete(tokens).where(eq(tokens.user, user.name))
      await rows.delete(devices).where(eq(devices.user, user.name))
      await forgetTries(rows, user.name)
    }
    return undefined
  })
}

/**
 * Removes a user, with sessions, tokens and what projects were open to the user; what carries the name keeps it.
 * @returns why not, where it cannot be
 */
export function removeUser(store: Store, name: string): Promise<Refusal | undefined> {
  return store.write(async rows => {
    const user = await losing(rows, name, true)
    if (typeof user === 'string') return user
    for (const table of [tokens, sessions, devices, members]) await rows.delete(table).where(eq(table.user, user.name))
    await rows.delete(grants).where(and(eq(grants.kind, 'user'), eq(grants.name, user.name)))
    await rows.delete(users).where(eq(users.name, user.name))
    return undefined
  })
}
