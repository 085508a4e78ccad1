/** A call that cannot be carried out: one line on standard error, exit 2. */
export class UsageError extends Error {}
