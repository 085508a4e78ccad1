import { parentPort, workerData } from 'node:worker_threads'
import { z } from 'zod'
import { draco } from '../../cli/draco'
import { MeshFileError, readMesh } from '../../core/exchange/readMesh'
import { keyTableSchema } from '../../core/mesh/keys'
import { prepare, preparationSchema } from '../../core/mesh/preparation'

const jobSchema = z.object({
  bytes: z.instanceof(ArrayBuffer), name: z.string(), preparation: preparationSchema, table: keyTableSchema.optional(),
  limits: z.object({ bytes: z.number(), triangles: z.number() }),
})
export type MeshJob = z.infer<typeof jobSchema>

/**
 * Reads a mesh file on a thread of its own, finds its parts, matches them with the keys of the mesh it replaces, and
 * answers with counts and keys, or with why it cannot be read.
 */
try {
  const { bytes, name, preparation, table, limits } = jobSchema.parse(workerData)
  const { mesh, parts, table: keys } = prepare(await readMesh(new Uint8Array(bytes), name, { draco, limits }), preparation, table)
  parentPort!.postMessage({ triangles: mesh.indices.length / 3, parts: parts.parts.length, keys })
}
catch (error) {
  parentPort!.postMessage({ error: error instanceof MeshFileError ? error.message : 'The file could not be read.' })
}
