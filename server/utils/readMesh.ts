import type { H3Event } from 'h3'
import * as z from 'zod'
import { keyTableSchema } from '#core/mesh/keys'
import type { MeshJob } from '../jobs/mesh'
import { log } from './log'
import { ReadingProcess } from './readingProcess'
import { readMegabytes, watchProcess } from './watchProcess'

const answerSchema = z.union([
  z.object({ triangles: z.number(), parts: z.number(), keys: keyTableSchema }),
  z.object({ error: z.string(), cause: z.string().optional() }),
])
export type MeshAnswer = z.infer<typeof answerSchema>
/** What a process says: the answer, and how much memory it has, in bytes. */
const saidSchema = z.object({ answer: answerSchema, memory: z.number() })

/** How many meshes are read at once; others wait. */
const AT_ONCE = 2
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

/**
 * Checks a mesh file in a process beside the server: one that would take too long or too much memory is ended, and the
 * server goes on answering meanwhile. It is ended, too, when whoever asked has left.
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
  const megabytes = readMegabytes()
  let reader = ReadingProcess.next(megabytes)
  return new Promise(resolve => {
    const give = (answer: MeshAnswer): void => {
      endWatch()
      resolve(answer)
    }
    const stop = (answer: MeshAnswer): void => {
      reader.kill()
      give(answer)
    }
    const endWatch = watchProcess(
      event,
      () => reader.pid,
      why => stop({ error: why }),
    )
    const heard = (message: unknown): void => {
      const said = saidSchema.safeParse(message)
      if (!said.success) {
        log.error({ err: said.error }, 'a process that reads meshes answered with something else')
        return stop({ error: 'The file could not be read.' })
      }
      const { answer, memory } = said.data
      if ('cause' in answer) {
        log.error({ cause: answer.cause }, 'a mesh could not be read, for a reason that is not in its file')
        return stop(answer)
      }
      reader.rest(memory)
      give(answer)
    }
    const ended = (code: number | null, signal: string | null): void => {
      // One that waited may have ended meanwhile, and a new one has more room.
      if (reader.hasWaited) {
        reader = new ReadingProcess(megabytes)
        reader.read(job, bytes, heard, ended)
        return
      }
      if (code === null && signal === null)
        return give({ error: 'The file could not be read: the server could not begin to.' })
      log.error({ code, signal }, 'a process that reads meshes ended without an answer')
      give({ error: code === 134 ? 'The mesh does not fit into memory.' : 'The file could not be read.' })
    }
    reader.read(job, bytes, heard, ended)
  })
}
