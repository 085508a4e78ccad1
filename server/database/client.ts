import { createClient, type Client } from '@libsql/client'
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql'
import { mkdirSync } from 'node:fs'
import { dirname } from 'node:path'
import { MIGRATIONS } from './migrations'

async function migrate(client: Client): Promise<void> {
  await client.execute('CREATE TABLE IF NOT EXISTS migrations (number INTEGER PRIMARY KEY)')
  const done = Number((await client.execute('SELECT COUNT(*) AS n FROM migrations')).rows[0]!.n)
  for (let i = done; i < MIGRATIONS.length; i++) {
    await client.batch([...MIGRATIONS[i]!, { sql: 'INSERT INTO migrations VALUES (?)', args: [i] }], 'write')
  }
}

async function open(): Promise<LibSQLDatabase> {
  const url = process.env.UBBLET_DATABASE ?? 'file:.data/ubblet.db'
  if (url.startsWith('file:')) mkdirSync(dirname(url.slice('file:'.length)), { recursive: true })
  const client = createClient({ url, ...(process.env.UBBLET_DATABASE_TOKEN && { authToken: process.env.UBBLET_DATABASE_TOKEN }) })
  if (url.startsWith('file:')) await client.execute('PRAGMA journal_mode = WAL')
  await migrate(client)
  return drizzle(client)
}

let database: Promise<LibSQLDatabase> | undefined
/** The database named by UBBLET_DATABASE (any libSQL URL; a file under .data by default), opened and migrated once. */
export const useDatabase = (): Promise<LibSQLDatabase> => database ??= open()
