import * as z from 'zod'
import { draco } from '../../node/draco'
import { MeshFileError, readMesh } from '../../core/exchange/readMesh'
import { keyTableSchema } from '../../core/mesh/keys'
import { prepare, preparationSchema } from '../../core/mesh/preparation'
import { endWithParent } from './parent'
import { receivedFile } from './receivedFile'

const jobSchema = z.object({
  name: z.string(),
  preparation: preparationSchema,
  table: keyTableSchema.optional(),
  limits: z.object({ bytes: z.number(), triangles: z.number() }),
})
export type MeshJob = z.infer<typeof jobSchema>

/** What the server sends: the job, and how many bytes the file has that follows. */
const messageSchema = jobSchema.extend({ size: z.number().int().min(0) })

/** Finds the parts of a mesh, and matches them with the keys of the mesh that it replaces. */
async function answerTo(message: unknown): Promise<object> {
  try {
    const { name, preparation, table, limits, size } = messageSchema.parse(message)
    const mesh = await readMesh(await receivedFile(size), name, { draco, limits })
    const prepared = prepare(mesh, preparation, table)
    const { mesh: own, parts, table: keys } = prepared
    return { triangles: own.indices.length / 3, parts: parts.parts.length, keys }
  } catch (error) {
    if (error instanceof MeshFileError) return { error: error.message }
    return { error: 'The file could not be read.', cause: error instanceof Error ? error.stack : String(error) }
  }
}

/**
 * In a process of its own: takes jobs as messages, one after the other, and the bytes of their files on standard input;
 * answers with counts and keys, or with why the file cannot be read, and with how much memory the process has.
 */
if (process.send) {
  endWithParent()
  process.on('message', (message: unknown) => {
    void answerTo(message).then(answer => {
      if (process.connected) process.send!({ answer, memory: process.memoryUsage.rss() })
    })
  })
}
