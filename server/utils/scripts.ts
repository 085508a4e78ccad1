import { fork } from 'node:child_process'
import { existsSync } from 'node:fs'
import { dirname, join } from 'node:path'

/** Where bundled jobs and the written demo lie: beside the built server, or in `dist` while it is developed. */
function jobsFolder(): string {
  const beside = join(dirname(process.argv[1] ?? ''), 'jobs')
  return existsSync(beside) ? beside : join(process.env.UBBLET_HOME ?? process.cwd(), 'dist')
}

/** The bundled script of a job, which runs on a thread or in a process of its own. */
export const scriptOf = (name: string): string => join(jobsFolder(), `${name}.mjs`)

/** Where the build has written the demo. */
export const demoFolder = (): string => join(jobsFolder(), 'demo')

/**
 * Has a script look after the database file, in a process of its own, and answers with what it said last.
 *
 * Never on a thread: a script loads a copy of SQLite of its own, and with two copies in one process the one that closes
 * the file takes the other's locks away and deletes its log (sqlite.org/howtocorrupt.html, 2.2.1).
 */
export function besideDatabase(name: string, file: string): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const child = fork(scriptOf(name), [file], { stdio: ['ignore', 'ignore', 'inherit', 'ipc'], execArgv: [] })
    child.unref()
    child.channel?.unref()
    let said: unknown
    child.on('message', message => {
      said = message
    })
    child.once('error', reject)
    // When the channel is closed too: whatever was said is heard by then.
    child.once('close', () => resolve(said))
  })
}
