import * as z from 'zod'
import { RIGS, type RigName } from '../trace/rigs'
import { MOST_STEPS } from './sheet'

const id = z.string().min(1).max(256)
const number = z.number()
const triple = z.tuple([number, number, number])
const sweepSchema = z.strictObject({
  node: id,
  param: id,
  from: z.union([number, triple]),
  to: z.union([number, triple]),
  count: z.number().int().min(1).max(MOST_STEPS),
  ratios: z.boolean().optional(),
})

/** What a sheet can hold. */
export const SHEET_KINDS = ['rolls', 'sweep', 'states', 'lights', 'distances'] as const
export type SheetKind = (typeof SHEET_KINDS)[number]
/** In which order its tiles can stand. */
export const SHEET_ORDERS = ['made', 'starred', 'away', 'alike', 'hue', 'roughness'] as const
export type SheetOrder = (typeof SHEET_ORDERS)[number]

/**
 * A sheet as it is kept in a project: what makes its tiles, what was thought of them, and from where and in which light
 * they are seen. The pictures are made anew.
 */
export const keptSheetSchema = z.strictObject({
  /** The look that it is of. */
  look: z.string().min(1).max(64),
  kind: z.enum(SHEET_KINDS),
  order: z.enum(SHEET_ORDERS),
  numbers: z.boolean(),
  /** The picture that it is sorted by; empty for none. */
  reference: z.string().max(256),
  rolls: z.strictObject({
    count: z.number().int().min(1).max(64),
    first: z.number().int().min(1).max(1_000_000),
    /** The nodes that are rolled alone; none where all are. Sheets from before have one, or an empty text. */
    only: z.union([
      z.array(id).max(400),
      z
        .string()
        .max(256)
        .transform(text => (text ? [text] : [])),
    ]),
  }),
  columns: sweepSchema.nullable(),
  rows: sweepSchema.nullable(),
  /** Ids of the states; null for the ones that it begins with. */
  states: z.array(id).max(400).nullable(),
  turns: z.number().int().min(1).max(8),
  /** By the id of the tile. */
  verdicts: z.record(id, z.enum(['starred', 'aside'])),
  /** The camera in meters, and the light of the stage. */
  seen: z
    .strictObject({
      from: triple,
      at: triple,
      rig: z.enum(Object.keys(RIGS) as [RigName, ...RigName[]]).optional(),
      turn: number,
      view: z.string().max(64),
    })
    .optional(),
})
export type KeptSheet = z.infer<typeof keptSheetSchema>
