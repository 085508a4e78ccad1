import { existsSync } from 'node:fs'
import { stat } from 'node:fs/promises'
import { backup as copy, BackupError, checkContents, damageOf, restore as bringBack } from '../../node/store/backup'
import { databaseUrl } from '../../node/store/places'
import { withStore } from '../openStore'
import { UsageError } from '../usage'

/** The database here as a path. @throws UsageError where it is a server of its own, which has backups of its own */
function databaseFile(): string {
  const url = databaseUrl()
  if (!url.startsWith('file:')) throw new UsageError(`The database ${url} is no file here; back it up where it runs.`)
  return url.slice('file:'.length)
}

const told = (error: unknown): never => {
  throw error instanceof BackupError ? new UsageError(error.message) : error
}

/**
 * `ubblet backup FILE`: copies the database as it is at this moment, while servers go on. Files in it that are not what
 * they were are copied as they are, and told.
 */
export async function backup(to: string): Promise<{ data: unknown; text: string; problems: string[] }> {
  const from = databaseFile()
  if (!existsSync(from)) throw new UsageError(`There is no database at ${from}; UBBLET_DATABASE names another.`)
  await copy(from, to).catch(told)
  const { size } = await stat(to)
  const { data: problems } = await checkStore(`file:${to}`)
  const lines = problems.map(p => `${p}\n`).join('')
  const text = `${to}: ${(size / 2 ** 20).toFixed(1)} MB\n${lines}`
  return { data: { file: to, bytes: size, problems }, text, problems }
}

/** `ubblet restore FILE`: puts a backup in the place of the database. */
export async function restore(from: string): Promise<{ data: unknown; text: string }> {
  const to = databaseFile()
  const before = await bringBack(from, to).catch(told)
  return {
    data: { file: to, before: before ?? null },
    text: `${to} is what ${from} was${before ? `; what was there is kept as ${before}` : ''}.\n`,
  }
}

/** `ubblet check`, without a look: whether the database is sound, and every file in it what it was. */
export async function checkStore(url = `file:${databaseFile()}`): Promise<{ data: string[]; text: string }> {
  const file = url.slice('file:'.length)
  if (!existsSync(file)) throw new UsageError(`There is no database at ${file}; UBBLET_DATABASE names another.`)
  const damage = await damageOf(file)
  // What SQLite cannot read, we cannot either.
  const problems = damage.length ? damage : await withStore(store => checkContents(store), url)
  return { data: problems, text: problems.length ? `${problems.join('\n')}\n` : `${file} is sound.\n` }
}
