/** What can be wrong with the database, each with the status of the answer that says so. */
export const FAULTS = {
  busy: 503,
  full: 507,
  readonly: 503,
  damaged: 500,
  newer: 503,
  foreign: 503,
  unreachable: 503,
  stopping: 503,
} as const
export type Fault = keyof typeof FAULTS

/** A fault of the database, in one sentence for whoever asked. */
export class StoreError extends Error {
  /**
   * @param origin what SQLite or the system said: for the log. Not the standard's `cause`, for the server's framework
   * puts an error's cause in the error's place.
   */
  constructor(
    readonly fault: Fault,
    message: string,
    readonly origin?: unknown,
  ) {
    super(message)
  }

  get status(): number {
    return FAULTS[this.fault]
  }
}

const SENTENCES: Partial<Record<Fault, string>> = {
  busy: 'The database is held by another program and did not become free in time. Nothing was changed; try again.',
  full: 'The disk of the server is full. Nothing was changed; free some room and try again.',
  readonly:
    'The database of the server can only be read, not written. Nothing was changed; its file or folder needs write permission.',
  damaged:
    'The database file of the server is damaged here. `ubblet check` says where; a backup brings back what is lost.',
  unreachable: 'The database of the server cannot be opened.',
}

/** SQLite's result codes, by how their names begin (sqlite.org/rescode.html). */
const CODES: readonly [begins: string, fault: Fault][] = [
  ['SQLITE_BUSY', 'busy'],
  ['SQLITE_LOCKED', 'busy'],
  ['SQLITE_PROTOCOL', 'busy'],
  ['SQLITE_FULL', 'full'],
  ['SQLITE_IOERR_WRITE', 'full'],
  ['SQLITE_READONLY', 'readonly'],
  ['SQLITE_PERM', 'readonly'],
  ['SQLITE_CORRUPT', 'damaged'],
  ['SQLITE_NOTADB', 'damaged'],
  ['SQLITE_IOERR', 'damaged'],
  ['SQLITE_CANTOPEN', 'unreachable'],
  ['TRANSACTION_CLOSED', 'busy'],
  ['CLIENT_CLOSED', 'busy'],
]

/** What an error and its causes call themselves, the innermost last. */
function* codesOf(error: unknown): Generator<string> {
  for (let at = error; at instanceof Error; at = at.cause) {
    const { code, extendedCode } = at as { code?: unknown; extendedCode?: unknown }
    if (typeof extendedCode === 'string') yield extendedCode
    if (typeof code === 'string') yield code
  }
}

/** Which fault of the database an error is, if it is one. */
export function faultOf(error: unknown): Fault | undefined {
  for (let at = error; at instanceof Error; at = at.cause) {
    if (at instanceof StoreError) return at.fault
  }
  for (const code of codesOf(error)) {
    const known = CODES.find(([begins]) => code.startsWith(begins))
    if (known) return known[1]
  }
  return undefined
}

/** An error of the database as its sentence; every other error as it is. */
export function told(error: unknown): unknown {
  for (let at = error; at instanceof Error; at = at.cause) {
    if (at instanceof StoreError) return at
  }
  const fault = faultOf(error)
  return fault ? new StoreError(fault, SENTENCES[fault]!, error) : error
}

/** Whether an error came from the database at all: the connection on which it came is not used again. */
export const fromDatabase = (error: unknown): boolean =>
  [...codesOf(error)].some(
    code => code.startsWith('SQLITE_') || code.endsWith('_CLOSED') || code === 'HRANA_WEBSOCKET_ERROR',
  )
