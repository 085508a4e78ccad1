import { createClient, type Client } from '@libsql/client'
import { chmod, copyFile, mkdir, rename, rm } from 'node:fs/promises'
import { existsSync } from 'node:fs'
import { dirname } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { sql } from 'drizzle-orm'
import { blobPieces, type BlobInfo } from './blobs'
import { faultOf, StoreError } from './faults'
import { blobs } from './schema'
import type { Store } from './store'

/** A backup that cannot be made or brought back; the message is one sentence. */
export class BackupError extends Error {}

/** How long a running server may keep the database from being copied, in milliseconds. */
const PATIENCE = 60_000

async function patiently<T>(work: () => Promise<T>): Promise<T> {
  for (const until = Date.now() + PATIENCE; ;) {
    try {
      return await work()
    } catch (error) {
      if (faultOf(error) !== 'busy' || Date.now() > until) throw error
      await wait(50)
    }
  }
}

/** A copy is for whoever runs the server, not for everybody on its machine. */
const OWN = 0o600

/** Tables that say who is signed in. */
const SIGNED_IN = ['sessions', 'devices', 'tokens', 'tries']

/** The tables of a database file. */
async function tablesOf(client: Client): Promise<Set<string>> {
  const { rows } = await client.execute(`SELECT name FROM sqlite_schema WHERE type = 'table'`)
  return new Set(rows.map(r => String(r.name)))
}

/**
 * Ends all sessions and tokens in a copy: what was ended since would else be open again, and whoever can read the copy
 * must not find in it what opens the server.
 */
async function signOutAll(path: string): Promise<void> {
  const client = createClient({ url: `file:${path}`, concurrency: 1, timeout: 1000 })
  try {
    await client.execute('PRAGMA journal_mode = DELETE')
    await client.execute('PRAGMA secure_delete = ON')
    const there = await tablesOf(client)
    for (const table of SIGNED_IN) if (there.has(table)) await client.execute(`DELETE FROM ${table}`)
  } finally {
    client.close()
  }
}

/** Whether a file is a database of Ubblet's. */
async function isOurs(path: string): Promise<boolean> {
  const client = createClient({ url: `file:${path}`, concurrency: 1, timeout: 5000 })
  try {
    const there = await tablesOf(client)
    return there.has('migrations') && there.has('projects') && there.has('revisions')
  } finally {
    client.close()
  }
}

/**
 * Copies a database as it is at one moment, also while servers write into it.
 * @param from path of the database
 * @param to path of the copy, which must not be there yet
 */
export async function backup(from: string, to: string): Promise<void> {
  if (existsSync(to)) throw new BackupError(`${to} is there already; a backup replaces nothing.`)
  await mkdir(dirname(to), { recursive: true })
  const draft = `${to}.part-${process.pid}`
  const client = createClient({ url: `file:${from}`, concurrency: 1, timeout: 1000 })
  try {
    await patiently(() => client.execute({ sql: 'VACUUM INTO ?', args: [draft] }))
    await signOutAll(draft)
    await chmod(draft, OWN)
    await rename(draft, to)
  } finally {
    client.close()
    await rm(draft, { force: true })
  }
}

/**
 * Whether somebody has the database open: only the last connection can take a database out of the mode with a log.
 * Where nobody has, what is in the log is in the file afterwards.
 */
async function inUse(path: string): Promise<boolean> {
  const client: Client = createClient({ url: `file:${path}`, concurrency: 1, timeout: 200 })
  try {
    const { rows } = await client.execute('PRAGMA journal_mode = DELETE')
    return String(rows[0]?.journal_mode) === 'wal'
  } catch (error) {
    return faultOf(error) === 'busy'
  } finally {
    client.close()
  }
}

/**
 * Puts a backup in the place of a database. What was there is kept beside it. Nobody is signed in afterwards.
 * @returns where what was there lies now; nothing where nothing was
 */
export async function restore(from: string, to: string, now = new Date()): Promise<string | undefined> {
  if (!existsSync(from)) throw new BackupError(`There is no backup at ${from}.`)
  const problems = await damageOf(from)
  if (problems.length) throw new BackupError(`${from} is no sound backup: ${problems[0]}.`)
  if (!(await isOurs(from))) throw new BackupError(`${from} is no backup of Ubblet's: its tables are not there.`)
  const there = existsSync(to)
  if (there && (await inUse(to))) throw new BackupError(`A server has ${to} open; stop it first.`)
  await mkdir(dirname(to), { recursive: true })
  const draft = `${to}.part-${process.pid}`
  await copyFile(from, draft)
  await signOutAll(draft)
  await chmod(draft, OWN)
  const before = there ? `${to}.before-${now.toISOString().replace(/[:.]/g, '-')}` : undefined
  for (const ending of ['', '-wal', '-shm']) {
    if (before && existsSync(to + ending)) await rename(to + ending, before + ending)
  }
  await rename(draft, to)
  return before
}

/** What SQLite itself finds wrong with a file, in its words; nothing where all is well. */
export async function damageOf(path: string): Promise<string[]> {
  const client = createClient({ url: `file:${path}`, concurrency: 1, timeout: 5000 })
  try {
    const { rows } = await client.execute('PRAGMA integrity_check(100)')
    return rows.map(r => String(r.integrity_check ?? r[0])).filter(line => line !== 'ok')
  } catch (error) {
    return [(error as Error).message]
  } finally {
    client.close()
  }
}

/** Whether the bytes of a file are what they were. It is read piece by piece, and never in memory as a whole. */
async function isWhole(store: Store, blob: BlobInfo): Promise<boolean> {
  const pieces = blobPieces(store, blob)
  try {
    while (!(await pieces.next()).done);
    return true
  } catch (error) {
    if (error instanceof StoreError) return false
    throw error
  }
}

/** Checks that every file of the database has the bytes that its hash says, and that everything named is there. */
export async function checkContents(store: Store, progress?: (done: number, all: number) => void): Promise<string[]> {
  const problems: string[] = []
  const all = await store.rows.select().from(blobs)
  for (const [i, blob] of all.entries()) {
    progress?.(i, all.length)
    if (blob.size < 0) continue
    if (!(await isWhole(store, blob)))
      problems.push(`File ${blob.hash.slice(0, 12)} (${blob.type}, ${blob.size} bytes) is not what it was.`)
  }
  const named = await store.rows.all<{ what: string; hash: string }>(sql`
    SELECT 'the mesh of project ' || name AS what, mesh_hash AS hash FROM projects WHERE mesh_hash NOT IN (SELECT hash FROM blobs WHERE size >= 0)
    UNION ALL SELECT 'the mesh of revision ' || number || ' of project ' || project, mesh_hash FROM revisions WHERE mesh_hash NOT IN (SELECT hash FROM blobs WHERE size >= 0)
    UNION ALL SELECT 'the picture ' || name || ' of project ' || project, hash FROM pictures WHERE hash NOT IN (SELECT hash FROM blobs WHERE size >= 0)
    UNION ALL SELECT 'the picture of light ' || name || ' of project ' || project, hash FROM lights WHERE hash NOT IN (SELECT hash FROM blobs WHERE size >= 0)
    UNION ALL SELECT 'the dense mesh ' || name || ' of project ' || project, hash FROM dense_meshes WHERE hash NOT IN (SELECT hash FROM blobs WHERE size >= 0)
    UNION ALL SELECT 'the keys of the dense mesh of project ' || project, keys_hash FROM dense_meshes WHERE keys_hash NOT IN (SELECT hash FROM blobs WHERE size >= 0)
    UNION ALL SELECT 'a geometry map', hash FROM geometry_maps WHERE hash NOT IN (SELECT hash FROM blobs WHERE size >= 0)
    UNION ALL SELECT 'the saves of look ' || name, id FROM looks WHERE id NOT IN (SELECT look_id FROM revisions)
    UNION ALL SELECT 'the look of revision ' || number || ' of project ' || project, look_id FROM revisions WHERE look_id NOT IN (SELECT id FROM looks)
    UNION ALL SELECT 'project ' || name || ' with no revision', id FROM projects WHERE id NOT IN (SELECT project FROM revisions)`)
  for (const { what, hash } of named) problems.push(`Missing: ${what} (${hash.slice(0, 12)}).`)
  return problems
}
