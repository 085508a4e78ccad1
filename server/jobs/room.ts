import { createClient } from '@libsql/client/sqlite3'
import { answerParent } from './parent'

/** In a process of its own: gives the empty room inside a database file back to the disk. Writes wait meanwhile. */
const [file] = process.argv.slice(2)
if (process.send && file) {
  const client = createClient({ url: `file:${file}`, concurrency: 1, timeout: 10_000 })
  try {
    await client.execute('PRAGMA auto_vacuum = INCREMENTAL')
    await client.execute('VACUUM')
    await client.execute('PRAGMA wal_checkpoint(TRUNCATE)')
    client.close()
    answerParent({ done: true })
  } catch (error) {
    client.close()
    answerParent({ error: (error as Error).message })
  }
}
