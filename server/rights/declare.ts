import { ROLES, type Role } from '../../node/store/schema'

/**
 * What a route declares of itself. Rights hang on this alone, never on the spelling of an address.
 *
 * A route that changes something says so with `does`, a phrase for the trail ("renamed the project"); `null` is for
 * changes that nobody would look for there, such as being present.
 */
export interface Declaration {
  /** The least role that may ask, in the project where the route is of one; `everybody` has not even signed in. */
  may: Role | 'everybody'
  /** Set where the path names a project: `present` finds projects that are not removed, `any` finds all. */
  project?: 'present' | 'any'
  /** Whether a locked project refuses the route. Every route that changes a project says one or the other. */
  lock?: 'holds' | 'passes'
  /** A route for people at a browser: a token may not ask. */
  byHand?: true
  does?: string | null
}

/** Who asks. Where nobody signs in, it is whoever sits at this machine, without a name, who may do everything. */
export interface Person {
  name: string | undefined
  role: Role
  /** Where a token asks: its id, and what it may do at most. */
  token?: string
  scope?: Role
}

/** The status of an answer, and its sentence. */
export type Refusal = [status: number, message: string]

/** The lock of a project: since when, and by whom. */
export interface Lock {
  locked: number | null
  lockedBy: string | null
}

export const atLeast = (role: Role, least: Role): boolean => ROLES.indexOf(role) >= ROLES.indexOf(least)

/** Why a person may not ask a route, before anything else is known. @returns nothing where the person may */
export function refusalOf(declared: Declaration, person: Person | undefined): Refusal | undefined {
  if (declared.may === 'everybody') return undefined
  if (!person) return [401, 'Sign in first.']
  if (declared.byHand && person.token !== undefined)
    return [403, 'A token may not do this; sign in with your password.']
  return refusalByRole(declared.may, person)
}

/** Why somebody's role is too small. */
export function refusalByRole(least: Role, { role, name }: Pick<Person, 'role' | 'name'>): Refusal | undefined {
  if (atLeast(role, least)) return undefined
  return [403, `This takes the role "${least}"; ${name ?? 'you'} has the role "${role}".`]
}

/** The refusal that a locked project gives to a route that the lock holds. */
export function refusalByLock(declared: Declaration, { locked, lockedBy }: Lock): Refusal | undefined {
  if (!locked || declared.lock !== 'holds') return undefined
  return [423, `The project is locked against changes${lockedBy ? ` by ${lockedBy}` : ''}; unlock it first.`]
}

/** How a route's file declares it. */
const DECLARED = /\bexport default route\(\s*(\{[^{}]*\})\s*,/

/**
 * What a route declares, read from its source.
 * @param path of the file, which ends in the method (`index.put.ts`)
 * @throws Error where it declares nothing, or not all that its method takes
 */
export function declarationIn(path: string, source: string): Declaration {
  const text = DECLARED.exec(source)?.[1]
  if (!text) throw new Error(`${path} declares no rights: a route is \`export default route({ may: … }, …)\`.`)
  // Source of our own, at build time: an object literal with commas at its end and keys without quotes is no JSON.
  const declared = new Function(`return (${text})`)() as Declaration
  const method = /\.(get|post|put|patch|delete)\.ts$/.exec(path)?.[1]
  if (!method) throw new Error(`${path} does not end in its method, such as index.get.ts.`)
  const changes = method !== 'get'
  if (changes !== (declared.does !== undefined))
    throw new Error(`${path} must ${changes ? 'say' : 'not say'} what it does (\`does\`), for the trail.`)
  if ((changes && declared.project !== undefined) !== (declared.lock !== undefined))
    throw new Error(`${path} must ${changes ? 'say' : 'not say'} whether a lock holds it (\`lock\`).`)
  return declared
}
