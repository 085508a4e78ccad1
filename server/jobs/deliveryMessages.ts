import * as z from 'zod'
import { workSchema } from '../../node/bake/workSchema'

const bytes = z.custom<Uint8Array>(x => x instanceof Uint8Array)
/** A delivery as it is handed to its thread. Pictures come as their PNG files: only the thread decodes them. */
export const deliveryJobSchema = z.object({
  work: workSchema.omit({ pictures: true }),
  files: z.array(z.object({ name: z.string(), bytes })),
  folder: z.string(),
  name: z.string(),
  revision: z.number().optional(),
  mark: z.string(),
  cache: z.string(),
  cacheMegabytes: z.number().positive(),
  threads: z.number().int().positive(),
  originals: z.map(z.string(), bytes),
})
export type DeliveryJob = z.infer<typeof deliveryJobSchema>
export const deliveryMessageSchema = z.union([
  z.object({ share: z.number(), what: z.string() }),
  z.object({ done: z.literal(true) }),
  z.object({ error: z.string() }),
])
