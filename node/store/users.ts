import { and, eq, ne } from 'drizzle-orm'
import { hashPassword } from './passwords'
import { tokens, users, type Role } from './schema'
import type { Store } from './store'

/** Lets somebody sign in. @returns whether the name was free */
export async function addUser(store: Store, name: string, password: string, role: Role): Promise<boolean> {
  const now = Date.now()
  const row = { name, password: await hashPassword(password), role, made: now, changed: now }
  const added = await store.write(rows =>
    rows.insert(users).values(row).onConflictDoNothing().returning({ name: users.name }),
  )
  return added.length > 0
}

export type UserChange = { password?: string | undefined; role?: Role | undefined }
export type Refusal = 'unknown' | 'last'

/** Whether somebody else may manage: the last who may is neither removed nor given another role. */
const another = (store: Store, name: string) =>
  store.rows
    .select({ name: users.name })
    .from(users)
    .where(and(eq(users.role, 'manage'), ne(users.name, name)))
    .limit(1)

/** Changes a password or a role, which ends the user's sessions. @returns why not, where it cannot be */
export async function changeUser(
  store: Store,
  name: string,
  { password, role }: UserChange,
): Promise<Refusal | undefined> {
  const [user] = await store.rows.select().from(users).where(eq(users.name, name))
  if (!user) return 'unknown'
  if (role && role !== 'manage' && user.role === 'manage' && !(await another(store, user.name)).length) return 'last'
  const set = {
    changed: Date.now(),
    ...(role && { role }),
    ...(password !== undefined && { password: await hashPassword(password) }),
  }
  await store.write(rows => rows.update(users).set(set).where(eq(users.name, user.name)))
  return undefined
}

/** Removes a user, with sessions and tokens; what carries the name keeps it. @returns why not, where it cannot be */
export async function removeUser(store: Store, name: string): Promise<Refusal | undefined> {
  const [user] = await store.rows.select().from(users).where(eq(users.name, name))
  if (!user) return 'unknown'
  if (user.role === 'manage' && !(await another(store, user.name)).length) return 'last'
  await store.write(async rows => {
    await rows.delete(tokens).where(eq(tokens.user, user.name))
    await rows.delete(users).where(eq(users.name, user.name))
  })
  return undefined
}
