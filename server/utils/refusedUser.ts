import type { Refusal } from '../../node/store/users'

/** The status and the sentence for a change of a user that cannot be made. */
export const refusedUser = (why: Refusal, name: string): [number, string] =>
  why === 'unknown'
    ? [404, `There is no user "${name.slice(0, 100)}".`]
    : [409, `"${name}" is the last who may manage this server; give somebody else that role first.`]
