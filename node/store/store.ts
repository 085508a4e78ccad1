import { createClient, type Client, type InStatement, type ResultSet, type TransactionMode } from '@libsql/client'
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql'
import { chmodSync, closeSync, mkdirSync, openSync, statSync } from 'node:fs'
import { dirname } from 'node:path'
import { setImmediate as breathe, setTimeout as wait } from 'node:timers/promises'
import { faultOf, fromDatabase, StoreError, told } from './faults'
import { migrate } from './migrate'

export interface StoreOptions {
  url: string
  token?: string
  /** How long a write waits for another program that holds the database, in milliseconds. */
  patience?: number
}

/**
 * How long the library itself waits for a lock, in milliseconds. It blocks the process meanwhile, so we wait ourselves.
 */
const LIBRARY_WAITS = 10
/** The pauses between two tries, in milliseconds: longer every time, and never in step with another server's. */
const SHORTEST_PAUSE = 4
const LONGEST_PAUSE = 120
const PATIENCE = 20_000

/** What reads and writes see of Drizzle: the same queries on either. */
export type Rows = LibSQLDatabase

/**
 * Makes the file where there is none, and takes it from everybody but its owner and group: a log beside it gets the
 * same rights from SQLite. A file that belongs to somebody else stays as it is.
 */
function keepToOurselves(file: string): void {
  mkdirSync(dirname(file), { recursive: true })
  try {
    closeSync(openSync(file, 'a', 0o640))
    const { mode } = statSync(file)
    if (mode & 0o007) chmodSync(file, mode & 0o770)
  } catch {
    // What is wrong with it is told when it is opened.
  }
}

/**
 * The database, with one way in for reads and one for writes.
 *
 * Reads go over a connection of their own, which cannot write. Writes stand in a queue: one at a time, each in a
 * transaction that takes the write lock when it begins, so that what it reads cannot change before it writes. A
 * connection on which anything failed is thrown away: SQLite leaves the statement that met a lock open, and whatever is
 * written on that connection afterwards is answered but never committed.
 */
export class Store {
  private reader: Client | undefined
  private writer: Client | undefined
  private last: Promise<unknown> = Promise.resolve()
  private readonly patience: number
  private closed = false
  /** Why nothing is written any more, where the file was found damaged. */
  damage: StoreError | undefined
  /** Reads. @throws StoreError, within Drizzle's own error */
  readonly rows: Rows

  private constructor(private readonly options: StoreOptions) {
    this.patience = options.patience ?? PATIENCE
    this.rows = drizzle(this.patientClient())
  }

  /**
   * Opens the database, makes it where there is none, and brings it up to this version.
   * @throws StoreError where it cannot be opened, is another program's, or is from a newer version
   */
  static async open(options: StoreOptions): Promise<Store> {
    const store = new Store(options)
    try {
      if (store.file) keepToOurselves(store.file)
      await store.retried(
        async () => {
          const writer = store.connectWriter()
          await migrate(writer, options.url)
          if (store.file) await writer.execute('PRAGMA journal_size_limit = 67108864')
        },
        () => store.dropWriter(),
      )
      return store
    } catch (error) {
      store.close()
      const known = told(error)
      if (known instanceof StoreError && known.fault !== 'unreachable') throw known
      throw new StoreError(
        'unreachable',
        `The database ${options.url} cannot be opened (${(error as Error).message}).`,
        error,
      )
    }
  }

  /** The path of the file, where the database is one. */
  get file(): string | undefined {
    return this.options.url.startsWith('file:') ? this.options.url.slice('file:'.length) : undefined
  }

  /** The number of writes that wait or run. */
  waiting = 0

  /**
   * Carries out one write, after all that were asked for before. Everything that `work` does happens, or nothing.
   * While another program holds the database, the write waits, and `work` may be run again from the start: it must do
   * nothing but ask the transaction.
   * @throws StoreError, or whatever `work` throws: then nothing was written
   */
  write<T>(work: (rows: Rows) => Promise<T>): Promise<T> {
    if (this.damage) return Promise.reject(this.damage)
    this.waiting++
    const turn = this.last.then(() =>
      this.retried(
        () => this.transact(work),
        () => this.dropWriter(),
      ),
    )
    this.last = turn
      .catch(() => {})
      .finally(() => {
        this.waiting--
      })
    return turn
  }

  private async transact<T>(work: (rows: Rows) => Promise<T>): Promise<T> {
    // On a file nothing in here waits for the system, so many writes in a row would keep every answer waiting.
    await breathe()
    const transaction = await this.connectWriter().transaction('write')
    try {
      const result = await work(drizzle(transaction as unknown as Client))
      await transaction.commit()
      return result
    } catch (error) {
      // Before the connection is closed: the library lets go of the lock of one that is closed only when memory is
      // cleaned up.
      await transaction.rollback().catch(() => this.dropWriter())
      throw error
    } finally {
      transaction.close()
    }
  }

  /** Runs something on a connection, again while the database is held by somebody else, until patience ends. */
  private async retried<T>(work: () => Promise<T>, drop: () => void): Promise<T> {
    const until = Date.now() + this.patience
    for (let pause = SHORTEST_PAUSE; ; pause = Math.min(LONGEST_PAUSE, pause * 2)) {
      try {
        return await work()
      } catch (error) {
        if (fromDatabase(error)) drop()
        const again = faultOf(error) === 'busy' && Date.now() < until && !this.closed
        if (!again) throw told(error)
        await wait(pause * (0.5 + Math.random()))
      }
    }
  }

  private connect(): Client {
    const { url, token } = this.options
    if (this.closed) throw new StoreError('stopping', 'The server is stopping.')
    return createClient({ url, ...(token && { authToken: token }), concurrency: 1, timeout: LIBRARY_WAITS })
  }

  private connectWriter(): Client {
    this.writer ??= this.connect()
    return this.writer
  }

  private async connectReader(): Promise<Client> {
    if (!this.reader) {
      const reader = this.connect()
      this.reader = reader
      if (this.file) await reader.execute('PRAGMA query_only = ON')
    }
    return this.reader
  }

  private dropWriter(): void {
    this.writer?.close()
    this.writer = undefined
  }

  private dropReader(): void {
    this.reader?.close()
    this.reader = undefined
  }

  /** A client for Drizzle whose reads are retried, and whose connection is replaced when it fails. */
  private patientClient(): Client {
    const retried = <T>(work: (client: Client) => Promise<T>): Promise<T> =>
      this.retried(
        async () => work(await this.connectReader()),
        () => this.dropReader(),
      )
    return {
      execute: (statement: InStatement): Promise<ResultSet> => retried(client => client.execute(statement)),
      batch: (statements: InStatement[], mode?: TransactionMode): Promise<ResultSet[]> =>
        retried(client => client.batch(statements, mode)),
    } as unknown as Client
  }

  /** Moves what was written into the file itself, so that the log beside it is empty. */
  async checkpoint(): Promise<void> {
    await this.last
    if (this.file && !this.closed)
      await this.connectWriter()
        .execute('PRAGMA wal_checkpoint(TRUNCATE)')
        .catch(() => this.dropWriter())
  }

  /** Ends all connections; what is still waiting fails. */
  close(): void {
    this.closed = true
    this.dropReader()
    this.dropWriter()
  }
}
