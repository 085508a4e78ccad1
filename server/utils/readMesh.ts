import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { z } from 'zod'
import { keyTableSchema } from '#core/mesh/keys'
import type { MeshJob } from '../jobs/mesh'

const answer = z.union([z.object({ triangles: z.number(), parts: z.number(), keys: keyTableSchema }), z.object({ error: z.string() })])

/** Checks a mesh file on a worker thread, so that the server goes on answering. */
export function readMesh({ bytes, ...job }: Omit<MeshJob, 'bytes'> & { bytes: Buffer }): Promise<z.infer<typeof answer>> {
  const script = join(process.env.UBBLET_HOME ?? process.cwd(), 'dist', 'mesh-job.mjs')
  return new Promise((resolve) => {
    const copy = new Uint8Array(bytes).buffer
    const worker = new Worker(script, { workerData: { bytes: copy, ...job } satisfies MeshJob, transferList: [copy], resourceLimits: { maxOldGenerationSizeMb: 4096 } })
    worker.once('message', (message: unknown) => {
      resolve(answer.parse(message))
      void worker.terminate()
    })
    worker.once('error', (error: Error & { code?: string }) =>
      resolve({ error: error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? 'The mesh does not fit into memory.' : 'The file could not be read.' }))
  })
}
