import * as z from 'zod'
import { deliverySchema } from '../../core/deliver/settings'
import { LookSchema } from '../../core/graph/look'
import { keyTableSchema } from '../../core/mesh/keys'
import { preparationSchema } from '../../core/mesh/preparation'

const bytes = z.custom<Uint8Array>(x => x instanceof Uint8Array)
const floats = z.custom<Float32Array>(x => x instanceof Float32Array)
/** Everything that a delivery is made from. Geometry maps that are missing are computed. */
export const workSchema = z.object({
  mesh: z.object({ name: z.string(), bytes }),
  preparation: preparationSchema,
  keys: keyTableSchema.optional(),
  maps: z.array(z.object({ name: z.string(), components: z.number().int().min(1).max(4), values: floats })),
  pictures: z.array(
    z.object({
      name: z.string(),
      width: z.number().int().positive(),
      height: z.number().int().positive(),
      data: z.union([bytes, floats, z.custom<Uint8ClampedArray>(x => x instanceof Uint8ClampedArray)]),
      lanes: z.union([z.literal(1), z.literal(4)]).optional(),
      covers: z.tuple([z.number(), z.number(), z.number(), z.number()]).optional(),
    }),
  ),
  look: LookSchema,
  settings: deliverySchema,
  limits: z.object({ bytes: z.number(), triangles: z.number() }).optional(),
})
export type Work = z.infer<typeof workSchema>

/** What a thread needs to bake pictures of a work that is open already. */
export const bakeWorkSchema = z.object({
  work: workSchema,
  /** For each variant its look, and what was found of it that needs the whole surface. */
  looks: z.array(
    z.object({
      look: LookSchema,
      found: z.object({
        values: z.array(z.object({ ref: z.number().int().min(0), value: z.union([z.number(), floats]) })),
        most: z.array(z.tuple([z.string(), z.number()])),
      }),
    }),
  ),
  /** Four numbers for each corner of each triangle, where a picture needs them. */
  tangents: floats.optional(),
})
export type BakeWork = z.infer<typeof bakeWorkSchema>
