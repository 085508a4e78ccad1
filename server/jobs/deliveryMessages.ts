import { z } from 'zod'
import { workSchema } from './workSchema'

export const deliveryJobSchema = z.object({
  work: workSchema, folder: z.string(), name: z.string(), revision: z.number().optional(), cache: z.string(), cacheMegabytes: z.number().positive(), threads: z.number().int().positive(),
  originals: z.map(z.string(), z.custom<Uint8Array>(x => x instanceof Uint8Array)),
})
export type DeliveryJob = z.infer<typeof deliveryJobSchema>
export const deliveryMessageSchema = z.union([
  z.object({ share: z.number(), what: z.string() }),
  z.object({ done: z.literal(true) }),
  z.object({ error: z.string() }),
])

