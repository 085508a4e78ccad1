import type { Client } from '@libsql/client'
import { StoreError } from './faults'
import { MIGRATIONS } from './migrations'

/** The tables of the file, to tell an empty one from another program's. */
async function tables(client: Client): Promise<Set<string>> {
  const { rows } = await client.execute(
    `SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%'`,
  )
  return new Set(rows.map(r => String(r.name)))
}

/**
 * Brings a database up to this version. Several servers may do so at once: each step names itself first, so that the
 * second to come finds the name taken, and looks again.
 * @throws StoreError where the file is another program's, or a newer version's
 */
export async function migrate(client: Client, url: string): Promise<void> {
  const found = await tables(client)
  if (found.size && !found.has('migrations')) {
    throw new StoreError(
      'foreign',
      `The database ${url} belongs to another program; name another file in UBBLET_DATABASE.`,
    )
  }
  if (url.startsWith('file:')) {
    // Both are kept in the file: rooms of the file can be given back only where it says so before its first table.
    if (!found.size) await client.execute('PRAGMA auto_vacuum = INCREMENTAL')
    await client.execute('PRAGMA journal_mode = WAL')
  }
  await client.execute('CREATE TABLE IF NOT EXISTS migrations (number INTEGER PRIMARY KEY)')
  for (;;) {
    const { rows } = await client.execute('SELECT COALESCE(MAX(number), -1) AS latest FROM migrations')
    const next = Number(rows[0]!.latest) + 1
    if (next > MIGRATIONS.length) {
      throw new StoreError(
        'newer',
        `The database ${url} was written by a newer version of Ubblet (step ${next - 1}; this one knows ${MIGRATIONS.length - 1}); use that version, or a backup from before.`,
      )
    }
    if (next === MIGRATIONS.length) return
    try {
      await client.batch([{ sql: 'INSERT INTO migrations VALUES (?)', args: [next] }, ...MIGRATIONS[next]!], 'write')
    } catch (error) {
      if (!(error as { code?: string }).code?.startsWith('SQLITE_CONSTRAINT')) throw error
    }
  }
}
