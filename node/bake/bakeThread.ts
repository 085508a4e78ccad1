import { parentPort, workerData } from 'node:worker_threads'
import * as z from 'zod'
import { compressor } from './compress'
import { PICTURE_WORDS } from '../../core/bake/maps'
import { Baker } from '../../core/bake/baker'
import { loadKernels } from '../../core/kernels/kernels'
import { openPiece } from './work'
import { bakeWorkSchema } from './workSchema'

export const taskSchema = z.object({
  id: z.number(),
  variant: z.number().int().min(0),
  tile: z.number().int(),
  band: z.number().int().min(0),
  specs: z.array(
    z.object({ name: z.string(), lanes: z.array(z.string()).min(1).max(4), space: z.enum(['srgb', 'linear']) }),
  ),
  picture: z.object({
    size: z.number().int(),
    format: z.enum(PICTURE_WORDS),
    dilation: z.number().int(),
    samples: z.number().int(),
    dither: z.boolean(),
  }),
})
export type BakeTask = z.infer<typeof taskSchema>
const noteSchema = z.union([
  z.object({ adler: z.object({ sum: z.number(), length: z.number() }) }),
  z.object({ sizes: z.array(z.number()) }),
])
export const answerSchema = z.union([
  z.object({ ready: z.literal(true) }),
  z.object({
    id: z.number(),
    bands: z.array(z.object({ bytes: z.instanceof(Uint8Array), note: noteSchema })),
    spent: z.object({ kernels: z.number(), compressing: z.number(), all: z.number(), texels: z.number() }),
  }),
  z.object({ error: z.string() }),
])

/** Bakes bands of a delivery's pictures, one after the other as they are asked for. */
if (parentPort && (workerData as { role?: string } | null)?.role === 'bake') {
  const port = parentPort
  try {
    const { work, looks, tangents } = bakeWorkSchema.parse((workerData as { of: unknown }).of)
    const kernels = await loadKernels()
    const { tables } = await openPiece(work)
    const bakers = looks.map(
      ({ look, found }) => new Baker(kernels, tables, look, tangents, () => performance.now(), found),
    )
    port.on('message', (message: unknown) => {
      try {
        const { id, variant, tile, band, specs, picture } = taskSchema.parse(message)
        const baker = bakers[variant]!
        const bands = baker.band(tile, specs, picture, band, compressor)
        const { compressing, all, texels } = baker.spent
        // Copies of their own: what zlib returns may lie in a larger buffer.
        const own = bands.map(b => ({ ...b, bytes: b.bytes.slice() }))
        port.postMessage(
          { id, bands: own, spent: { kernels: kernels.watch.spent, compressing, all, texels } },
          own.map(b => b.bytes.buffer),
        )
      } catch (error) {
        port.postMessage({ error: (error as Error).message })
      }
    })
    port.postMessage({ ready: true })
  } catch (error) {
    port.postMessage({ error: (error as Error).message })
  }
}
