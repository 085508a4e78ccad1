/** A call that cannot be carried out: one line on standard error, exit 2. */
export class UsageError extends Error {}

/** The exit code of a call that ran and found problems. */
export const FOUND_PROBLEMS = 1
