import { fork, type ChildProcess } from 'node:child_process'
import { readFile } from 'node:fs/promises'
import type { H3Event } from 'h3'
import * as z from 'zod'
import { keyTableSchema } from '#core/mesh/keys'
import type { MeshJob } from '../jobs/mesh'
import { setting } from './limits'
import { log } from './log'
import { scriptOf } from './scripts'

const answerSchema = z.union([
  z.object({ triangles: z.number(), parts: z.number(), keys: keyTableSchema }),
  z.object({ error: z.string(), cause: z.string().optional() }),
])
export type MeshAnswer = z.infer<typeof answerSchema>

/** How many meshes are read at once; others wait. */
const AT_ONCE = 2
/** How often the memory of a reading process is looked at, in milliseconds. */
const LOOK_EVERY = 100
const PAGE = 4096

let reading = 0
const waiting: (() => void)[] = []
async function turn(): Promise<() => void> {
  if (reading >= AT_ONCE)
    await new Promise<void>(resolve => {
      waiting.push(resolve)
    })
  reading++
  return () => {
    reading--
    waiting.shift()?.()
  }
}

/** Resident memory of a process in bytes, where the system tells (proc(5)). */
const memoryOf = (pid: number): Promise<number> =>
  readFile(`/proc/${pid}/statm`, 'latin1').then(
    text => Number(text.split(' ')[1]) * PAGE,
    () => 0,
  )

/**
 * Checks a mesh file in a process of its own: one that would take too long or too much memory is ended, and the server
 * goes on answering meanwhile. It is ended, too, when whoever asked has left.
 */
export async function readMesh(bytes: Uint8Array, job: MeshJob, event: H3Event): Promise<MeshAnswer> {
  const done = await turn()
  try {
    return await inProcess(bytes, job, event)
  } finally {
    done()
  }
}

function inProcess(bytes: Uint8Array, job: MeshJob, event: H3Event): Promise<MeshAnswer> {
  const seconds = setting('UBBLET_READ_SECONDS', 300)
  const megabytes = setting('UBBLET_READ_MEGABYTES', 6144)
  const child: ChildProcess = fork(scriptOf('mesh-job'), [], {
    stdio: ['pipe', 'ignore', 'inherit', 'ipc'],
    serialization: 'advanced',
    execArgv: [`--max-old-space-size=${Math.min(4096, megabytes)}`],
  })
  return new Promise(resolve => {
    const left = (): void => {
      if (!event.node.res.writableFinished) end({ error: 'Whoever sent the file has left.' })
    }
    const tooLong = setTimeout(
      () =>
        end({
          error: `Reading the file took more than ${seconds} seconds, which is the limit; the project is as it was.`,
        }),
      seconds * 1000,
    )
    const watch = setInterval(() => {
      void memoryOf(child.pid ?? 0).then(used => {
        if (used > megabytes * 2 ** 20)
          end({
            error: `Reading the file took more than ${megabytes} MB of memory, which is the limit; the project is as it was.`,
          })
      })
    }, LOOK_EVERY)
    let ended = false
    function end(answer: MeshAnswer): void {
      ended = true
      clearTimeout(tooLong)
      clearInterval(watch)
      event.node.res.off('close', left)
      child.kill('SIGKILL')
      resolve(answer)
    }
    event.node.res.once('close', left)
    child.once('message', (message: unknown) => {
      const read = answerSchema.safeParse(message)
      if (!read.success) log.error({ err: read.error }, 'a process that reads meshes answered with something else')
      else if ('cause' in read.data)
        log.error({ cause: read.data.cause }, 'a mesh could not be read, for a reason that is not in its file')
      end(read.success ? read.data : { error: 'The file could not be read.' })
    })
    child.once('error', () => end({ error: 'The file could not be read: the server could not begin to.' }))
    // When the channel is closed too: whatever was said is heard by then.
    child.once('close', (code, signal) => {
      if (ended) return
      log.error({ code, signal }, 'a process that reads meshes ended without an answer')
      end({ error: code === 134 ? 'The mesh does not fit into memory.' : 'The file could not be read.' })
    })
    // A child that ends early closes its end; its exit says why.
    child.stdin!.on('error', () => {})
    child.send(job)
    child.stdin!.end(bytes)
  })
}
