import * as z from 'zod'
import { deliverySchema } from './settings'

const hash = z.string().regex(/^[0-9a-f]{64}$/)
/** What a delivery holds and what it was made from. Hashes are SHA-256, as hexadecimal digits. */
export const manifestSchema = z.strictObject({
  ubblet: z.literal('delivery'),
  version: z.literal(1),
  name: z.string(),
  made: z.string(),
  look: z.strictObject({ name: z.string(), revision: z.number().nullable(), hash }),
  mesh: z.strictObject({ name: z.string(), hash, triangles: z.number(), parts: z.number() }),
  variants: z.array(z.strictObject({ name: z.string(), seed: z.number() })),
  tiles: z.array(z.number()),
  settings: deliverySchema,
  /**
   * What 8 and 16 bits stand for, per variant: 0 and 1 of a height are minus and plus so many millimeters, 1 of an
   * emission is so strong.
   */
  scales: z.array(z.strictObject({ variant: z.string(), height: z.number(), emission: z.number() })),
  /** Values of a procedural material that have no standard node and are read from a picture instead. */
  baked: z.array(z.string()),
  /** What was asked for and has nothing to show, in words. */
  leftOut: z.array(z.string()),
  findings: z.array(z.object({ severity: z.string(), message: z.string() })),
  files: z.array(z.strictObject({ path: z.string(), bytes: z.number(), sha256: hash, key: z.string().optional() })),
})
export type Manifest = z.infer<typeof manifestSchema>
