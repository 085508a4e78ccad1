import { and, eq, inArray, or, sql } from 'drizzle-orm'
import { grants, groups, members, projects, ROLES, users, type Role } from './schema'
import type { Rows, Store } from './store'

/** Whom a project is open to: everybody with the role that they have, or those who are named, with a role each. */
export const ACCESS = ['all', 'named'] as const
export type Access = (typeof ACCESS)[number]

export interface Grant {
  kind: 'user' | 'group'
  name: string
  role: Role
}

/** Who asks for a project. */
export interface Asker {
  name: string | undefined
  role: Role
}

interface Guarded {
  id: string
  access: Access
  owner: string | null
}

/** Selects the grants to a person: those in the person's name, and those to the person's groups. */
const grantsTo = (name: string) =>
  or(
    and(eq(grants.kind, 'user'), eq(grants.name, name)),
    and(
      eq(grants.kind, 'group'),
      sql`${grants.name} IN (SELECT ${members.group} FROM ${members} WHERE ${members.user} = ${name})`,
    ),
  )

const highest = (roles: readonly Role[]): Role | undefined =>
  roles.length ? ROLES[Math.max(...roles.map(r => ROLES.indexOf(r)))] : undefined

/** Whether somebody has made a project. Capitals make no difference in names. */
const owns = ({ owner }: Guarded, { name }: Asker): boolean =>
  owner !== null && owner.toLowerCase() === name?.toLowerCase()

/** Whether somebody says whom a project is open to: whoever made it, and whoever manages. */
export const opens = (project: Guarded, asker: Asker, role: Role): boolean =>
  role === 'manage' || (role === 'work' && owns(project, asker))

/** The role in a project, from what somebody was given there. */
function roleOf(project: Guarded, asker: Asker, given: readonly Role[]): Role | undefined {
  if (project.access === 'all' || asker.role === 'manage' || asker.name === undefined) return asker.role
  // Nobody locks themselves out of what they made.
  return highest(owns(project, asker) ? [...given, asker.role] : given)
}

/**
 * The role that somebody has in a project; none where it is not there for them. Those who manage the server have that
 * role everywhere. In an open project everybody has their own role.
 */
export async function roleIn(rows: Rows, project: Guarded, asker: Asker): Promise<Role | undefined> {
  const { name } = asker
  if (project.access === 'all' || name === undefined) return asker.role
  const { id } = project
  const own = await rows
    .select({ role: grants.role })
    .from(grants)
    .where(and(eq(grants.project, id), grantsTo(name)))
  return roleOf(
    project,
    asker,
    own.map(g => g.role),
  )
}

/** Of projects, those that are there for somebody. */
export async function visible<P extends Guarded>(
  rows: Rows,
  all: readonly P[],
  asker: Asker,
): Promise<(P & { role: Role })[]> {
  const { name, role } = asker
  if (name === undefined) return all.map(p => ({ ...p, role }))
  const own = await rows.select({ project: grants.project, role: grants.role }).from(grants).where(grantsTo(name))
  return all.flatMap(p => {
    const given = own.filter(g => g.project === p.id).map(g => g.role)
    const now = roleOf(p, asker, given)
    return now ? [{ ...p, role: now }] : []
  })
}

/** Whom a project is open to. */
export async function accessOf(rows: Rows, project: string): Promise<{ access: Access; grants: Grant[] }> {
  const [row] = await rows.select({ access: projects.access }).from(projects).where(eq(projects.id, project))
  const { kind, name, role } = grants
  const given = await rows.select({ kind, name, role }).from(grants).where(eq(grants.project, project))
  return { access: row?.access ?? 'all', grants: given }
}

/** The first grant whose user or group does not exist. */
async function unknown(rows: Rows, given: readonly Grant[]): Promise<Grant | undefined> {
  const names = given.map(g => g.name)
  if (!names.length) return undefined
  const people = await rows.select({ name: users.name }).from(users).where(inArray(users.name, names))
  const sets = await rows.select({ name: groups.name }).from(groups).where(inArray(groups.name, names))
  const known = { user: people, group: sets }
  return given.find(g => !known[g.kind].some(k => k.name.toLowerCase() === g.name.toLowerCase()))
}

/**
 * Sets whom a project is open to, in place of what was.
 * @returns the grant that is to nobody, where there is one: then nothing has changed
 */
export function setAccess(
  store: Store,
  project: string,
  access: Access,
  given: readonly Grant[],
): Promise<Grant | undefined> {
  return store.write(async rows => {
    const missing = await unknown(rows, given)
    if (missing) return missing
    await rows.update(projects).set({ access }).where(eq(projects.id, project))
    await rows.delete(grants).where(eq(grants.project, project))
    if (given.length) await rows.insert(grants).values(given.map(g => ({ ...g, project })))
    return undefined
  })
}

/** Groups of people, with who is in them. */
export async function groupList(rows: Rows): Promise<{ name: string; members: string[] }[]> {
  const all = await rows.select().from(groups).orderBy(groups.name)
  const belong = await rows.select().from(members).orderBy(members.user)
  return all.map(({ name }) => ({ name, members: belong.filter(m => m.group === name).map(m => m.user) }))
}

/**
 * Makes a group, or changes who is in it.
 * @returns a member that is no user, where there is one: then nothing has changed
 */
export function setGroup(store: Store, name: string, people: readonly string[]): Promise<string | undefined> {
  return store.write(async rows => {
    const known = people.length
      ? await rows
          .select({ name: users.name })
          .from(users)
          .where(inArray(users.name, [...people]))
      : []
    const missing = people.find(p => !known.some(k => k.name.toLowerCase() === p.toLowerCase()))
    if (missing !== undefined) return missing
    await rows.insert(groups).values({ name }).onConflictDoNothing()
    await rows.delete(members).where(eq(members.group, name))
    if (known.length) await rows.insert(members).values(known.map(k => ({ group: name, user: k.name })))
    return undefined
  })
}

/** Removes a group; what it was given goes with it. @returns whether there was one */
export async function removeGroup(store: Store, name: string): Promise<boolean> {
  const gone = await store.write(async rows => {
    await rows.delete(members).where(eq(members.group, name))
    await rows.delete(grants).where(and(eq(grants.kind, 'group'), eq(grants.name, name)))
    return rows.delete(groups).where(eq(groups.name, name)).returning({ name: groups.name })
  })
  return gone.length > 0
}
