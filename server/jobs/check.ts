import { createClient } from '@libsql/client/sqlite3'
import { answerParent, endWithParent } from './parent'

/**
 * In a process of its own: looks through a database file for damage, and says what it found; nothing where all is well.
 */
const [file] = process.argv.slice(2)
if (process.send && file) {
  endWithParent()
  const client = createClient({ url: `file:${file}`, concurrency: 1, timeout: 1000 })
  try {
    const { rows } = await client.execute('PRAGMA quick_check(20)')
    client.close()
    answerParent(rows.map(r => String(r.quick_check ?? r[0])).filter(line => line !== 'ok'))
  } catch (error) {
    const { code = '', message } = error as { code?: string; message: string }
    client.close()
    answerParent(/CORRUPT|NOTADB/.test(code) ? [message] : [])
  }
}
