import * as z from 'zod'
import { MATCHES } from './partners'
import { DETAIL_KINDS } from './take'

/** The longest distance of a cage, in meters. */
const FARTHEST = 1000
/** The finest tile that can be asked for, in texels. */
const FINEST = 8192
const distance = z.number().min(0).max(FARTHEST)
const key = z.string().regex(/^[0-9a-f]{16}$/)
const hash = z.string().regex(/^[0-9a-f]{64}$/)
const name = z.string().min(1).max(200)
const counts = z.array(z.number().int().min(0))

/** How detail is taken from a dense mesh, whatever it is. */
export const takeSchema = z.strictObject({
  match: z.enum(MATCHES),
  outward: distance,
  inward: distance,
  cages: z.record(key, z.strictObject({ outward: distance, inward: distance })).default({}),
  /** A vertex map of the light mesh; none where it is empty. */
  cageMap: z.string().max(200).default(''),
  given: z.record(key, z.union([key, z.literal('')])).default({}),
  size: z.number().int().min(16).max(FINEST),
  kinds: z.array(z.enum(DETAIL_KINDS)),
  vertexMaps: z.array(name),
})

/** What came of the last time that detail was taken. */
const takenSchema = z.strictObject({
  /** The pictures that were made: their names, the hashes of their files, and what all of it depends on. */
  pictures: z.array(z.strictObject({ name, hash, inputs: key })),
  /** For each part of the light mesh, in its order: texels, those that missed, and those that met another part. */
  found: z.strictObject({ texels: counts, missed: counts, wrong: counts }),
  alone: counts,
  leftOver: z.number().int().min(0),
})

/** What a project knows of its dense mesh, besides the file. */
export const denseSetupSchema = takeSchema.extend({
  /** From the units of the dense file to those of the project's mesh. */
  scale: z.number().positive().max(1e6),
  taken: takenSchema.nullable().default(null),
})
export type DenseSetup = z.infer<typeof denseSetupSchema>
