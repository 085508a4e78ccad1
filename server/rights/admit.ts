import { and, eq, isNull } from 'drizzle-orm'
import type { H3Event } from 'h3'
import { roleIn } from '../../node/store/access'
import { projects, type Role } from '../../node/store/schema'
import { lesser } from '../../node/store/tokens'
import { note } from '../../node/store/trail'
import { addressOf } from '../utils/addresses'
import { log } from '../utils/log'
import type { Project } from '../utils/projects'
import { projectId, refuse } from '../utils/requests'
import { useRows, useStore } from '../utils/store'
import { refusalByLock, refusalByRole, refusalOf, type Declaration, type Person, type Refusal } from './declare'

declare module 'h3' {
  interface H3EventContext {
    /** Who asks; nobody where sign-in is needed and has not happened. */
    person?: Person | undefined
    /** The project in the path, where the route has declared that it is of one. */
    project?: Project
    /** The role that whoever asks has in that project. */
    role?: Role
    /** What was done, where that hangs on the request; it goes into the trail instead of what the route declares. */
    did?: string
    /** The id of a project that the route has made: what was done is in its trail. */
    made?: string
    /** What is to be known besides, in the trail. */
    detail?: string
  }
}

async function projectInPath(event: H3Event, declared: Declaration): Promise<Project | undefined> {
  const id = projectId(event)
  const present = declared.project === 'any' ? undefined : isNull(projects.removed)
  const [project] = await (
    await useRows()
  )
    .select()
    .from(projects)
    .where(and(eq(projects.id, id), present))
  return project
}

/** The role that somebody has in a project, and by a token at most that of its scope. */
async function roleOf(person: Person, project: Project): Promise<Role | undefined> {
  const role = await roleIn(await useRows(), project, person)
  return role && person.scope ? lesser(role, person.scope) : role
}

/**
 * Why a route may not be asked by whoever asks.
 * @returns nothing where it may: then the project in its path is known
 */
export async function admit(event: H3Event, declared: Declaration): Promise<Refusal | undefined> {
  const { person } = event.context
  // In a project somebody's role may be another than on the server, so there it is looked at later.
  const refusal = refusalOf(declared.project ? { ...declared, may: 'look' } : declared, person)
  if (refusal || !declared.project) return refusal
  const project = await projectInPath(event, declared)
  const role = project && (await roleOf(person!, project))
  // Whoever it is not open to does not hear that it is there.
  if (!role) return [404, 'There is no such project.']
  event.context.project = project
  event.context.role = role
  return refusalByRole(declared.may as Role, { name: person!.name, role }) ?? refusalByLock(declared, project)
}

/** The project in the path of a route that has declared to be of one. */
export function projectOf(event: H3Event): Project {
  const { project } = event.context
  if (!project) throw refuse(500, 'This route has not declared that it is of a project.')
  return project
}

/** Writes into the trail what was done. What was done stays done where the trail cannot be written. */
export async function noted(event: H3Event, does: string): Promise<void> {
  const { person, project, made, did = does, detail } = event.context
  try {
    await note(await useStore(), {
      who: person?.name ?? null,
      token: person?.token ?? null,
      address: addressOf(event),
      did,
      detail: detail ?? null,
      project: made ?? project?.id ?? null,
    })
  } catch (error) {
    log.error({ err: error, did, user: person?.name, project: project?.id }, 'the trail could not be written')
  }
}
