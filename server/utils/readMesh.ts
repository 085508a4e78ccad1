import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { z } from 'zod'

const answer = z.union([z.object({ triangles: z.number(), parts: z.number() }), z.object({ error: z.string() })])

/** Checks a mesh file on a worker thread, so that the server goes on answering. */
export function readMesh(bytes: Buffer): Promise<z.infer<typeof answer>> {
  const script = join(process.env.UBBLET_HOME ?? process.cwd(), 'dist', 'mesh-job.mjs')
  return new Promise((resolve) => {
    const copy = new Uint8Array(bytes).buffer
    const worker = new Worker(script, { workerData: copy, transferList: [copy], resourceLimits: { maxOldGenerationSizeMb: 4096 } })
    worker.once('message', (message: unknown) => {
      resolve(answer.parse(message))
      void worker.terminate()
    })
    worker.once('error', (error: Error & { code?: string }) =>
      resolve({ error: error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? 'The mesh does not fit into memory.' : 'The file could not be read.' }))
  })
}
