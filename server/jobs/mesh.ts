import { once } from 'node:events'
import * as z from 'zod'
import { draco } from '../../node/draco'
import { MeshFileError, readMesh } from '../../core/exchange/readMesh'
import { keyTableSchema } from '../../core/mesh/keys'
import { prepare, preparationSchema } from '../../core/mesh/preparation'
import { answerParent, endWithParent } from './parent'

const jobSchema = z.object({
  name: z.string(),
  preparation: preparationSchema,
  table: keyTableSchema.optional(),
  limits: z.object({ bytes: z.number(), triangles: z.number() }),
})
export type MeshJob = z.infer<typeof jobSchema>

async function received(): Promise<Buffer> {
  const pieces: Buffer[] = []
  for await (const piece of process.stdin as AsyncIterable<Buffer>) pieces.push(piece)
  return Buffer.concat(pieces)
}

/**
 * In a process of its own: takes a job as a message and the mesh file's bytes on standard input, finds its parts,
 * matches them with the keys of the mesh that it replaces, and answers with counts and keys, or with why it cannot be
 * read.
 */
if (process.send) {
  endWithParent()
  const [message] = (await once(process, 'message')) as [unknown]
  try {
    const { name, preparation, table, limits } = jobSchema.parse(message)
    const mesh = await readMesh(new Uint8Array(await received()), name, { draco, limits })
    const prepared = prepare(mesh, preparation, table)
    answerParent({
      triangles: prepared.mesh.indices.length / 3,
      parts: prepared.parts.parts.length,
      keys: prepared.table,
    })
  } catch (error) {
    if (error instanceof MeshFileError) answerParent({ error: error.message })
    else
      answerParent({
        error: 'The file could not be read.',
        cause: error instanceof Error ? error.stack : String(error),
      })
  }
}
