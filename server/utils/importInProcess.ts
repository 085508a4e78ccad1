import { fork, type ChildProcess } from 'node:child_process'
import { constants, setPriority } from 'node:os'
import type { H3Event } from 'h3'
import * as z from 'zod'
import { databaseUrl } from '../../node/store/places'
import type { ImportJob } from '../jobs/importProject'
import { setting } from './limits'
import { log } from './log'
import { refuse } from './requests'
import { scriptOf } from './scripts'
import { readMegabytes, watchProcess } from './watchProcess'

const answerSchema = z.union([
  z.object({ id: z.uuid() }),
  z.object({ error: z.string(), status: z.number(), cause: z.string().optional() }),
])
type Answer = z.infer<typeof answerSchema>

/**
 * Has a project file unpacked, read and brought into the database by a process beside the server, which goes on
 * answering meanwhile. What takes too long or too much memory is ended; a project is there as a whole, or not at all.
 * @returns the project's id
 * @throws H3Error with a sentence
 */
export async function importInProcess(
  event: H3Event,
  bytes: Uint8Array,
  wanted: Pick<ImportJob, 'limit' | 'owner'>,
): Promise<string> {
  const databaseToken = process.env.UBBLET_DATABASE_TOKEN
  const job: ImportJob = {
    ...wanted,
    url: databaseUrl(),
    patience: setting('UBBLET_BUSY_SECONDS', 20) * 1000,
    ...(databaseToken && { databaseToken }),
  }
  const answer = await answerOf(event, bytes, job)
  if ('id' in answer) return answer.id
  if (answer.cause) log.error({ cause: answer.cause }, 'a project file could not be brought in')
  throw refuse(answer.status, answer.error)
}

/** Lets the server have the processor first: others wait for its answers. */
function giveWay({ pid }: ChildProcess): void {
  try {
    if (pid) setPriority(pid, constants.priority.PRIORITY_BELOW_NORMAL)
  } catch {
    // It has ended, or the system keeps no such order: then it takes its turn.
  }
}

function answerOf(event: H3Event, bytes: Uint8Array, job: ImportJob): Promise<Answer> {
  return new Promise(resolve => {
    const child = fork(scriptOf('import-job'), [], {
      stdio: ['pipe', 'ignore', 'inherit', 'ipc'],
      serialization: 'advanced',
      execArgv: [`--max-old-space-size=${Math.min(4096, readMegabytes())}`],
    })
    const stop = (answer: Answer): void => {
      endWatch()
      child.kill('SIGKILL')
      resolve(answer)
    }
    const endWatch = watchProcess(
      event,
      () => child.pid ?? 0,
      error => stop({ error, status: 422 }),
      'no project was brought in',
    )
    giveWay(child)
    child.on('message', message => {
      const read = answerSchema.safeParse(message)
      if (read.success) stop(read.data)
    })
    const failed = 'The project file could not be read.'
    child.on('error', () => stop({ error: failed, status: 500 }))
    child.once('close', code =>
      stop(
        code === 134
          ? { error: 'The project file does not fit into memory.', status: 422 }
          : { error: failed, status: 500 },
      ),
    )
    // A child that ends early closes its end; its exit says why.
    child.stdin!.on('error', () => {})
    child.send({ ...job, size: bytes.length })
    child.stdin!.write(bytes)
  })
}
