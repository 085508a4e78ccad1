import * as z from 'zod'
import { PICTURE_DEFAULTS } from '../bake/band'
import { MATERIAL_WORDS, MESH_WORDS, TABLE_WORDS } from './formats'
import { COMPRESSION_WORDS, GLB_PICTURE_WORDS } from '../exchange/compression'
import { BAKE_SIZES, laneSchema, MAP_NAMES, mapSpecSchema, PICTURE_WORDS } from '../bake/maps'

const name = z.string().trim().min(1).max(60)
/** A value written to the vertices: its name and its one to four lanes. */
export const vertexMapSchema = z.strictObject({
  name: name.regex(/^[A-Za-z0-9_ ]+$/, 'letters, digits, spaces and underscores only'),
  lanes: z.array(laneSchema).min(1).max(4),
})
export type DeliveredMap = z.infer<typeof vertexMapSchema>

/** How the height may be read by documents. */
export const RELIEFS = {
  normal: { title: 'Normals' },
  displacement: { title: 'Displacement' },
  both: { title: 'Both, to switch one off' },
} as const
export const RELIEF_WORDS = Object.keys(RELIEFS) as [keyof typeof RELIEFS, ...(keyof typeof RELIEFS)[]]

/** What a delivery is to hold. Everything has a default, so that a file of settings names only what it changes. */
export const deliverySchema = z.strictObject({
  /** The mesh with the look on it. */
  meshes: z.array(z.enum(MESH_WORDS)).default(['glb']),
  /** Material documents: with baked pictures, or with the patterns as nodes. */
  materials: z.array(z.enum(MATERIAL_WORDS)).default([]),
  /** Pictures as files of their own: by a word, and those with lanes of their own (masks, other packings). */
  maps: z.array(z.enum(MAP_NAMES)).default([]),
  extra: z.array(mapSpecSchema).max(64).default([]),
  size: z.literal([...BAKE_SIZES]).default(1024),
  format: z.enum(PICTURE_WORDS).default(PICTURE_DEFAULTS.format),
  dilation: z.number().int().min(0).max(64).default(PICTURE_DEFAULTS.dilation),
  samples: z.literal([1, 2, 4]).default(1),
  dither: z.boolean().default(false),
  /** Only these tiles (UDIM numbers). */
  tiles: z.array(z.number().int().min(1001).max(9999)).min(1).max(1000).optional(),
  colorIn: z.enum(['texture', 'vertices']).default('texture'),
  /**
   * What material documents and USD read of the height: the normals that it bends, or how far it stands out. A renderer
   * that does both counts it twice.
   */
  relief: z.enum(RELIEF_WORDS).default('normal'),
  /** How the vertices of a GLB are packed. */
  compression: z.enum(COMPRESSION_WORDS).default('none'),
  /** How the pictures inside a GLB are written. */
  glbPictures: z.enum(GLB_PICTURE_WORDS).default('png'),
  /** The vertices of the file, or of the analysis mesh. */
  on: z.enum(['file', 'analysis']).default('file'),
  vertexMaps: z.array(vertexMapSchema).max(64).default([]),
  /** Numbers of part, group and object on the vertices of every mesh; as feature ids too in a GLB. */
  identity: z.boolean().default(false),
  /** A picture for each part set, white on its parts. */
  setMasks: z.boolean().default(false),
  tables: z.array(z.enum(TABLE_WORDS)).default([]),
  /** The look and its pictures in one file. */
  look: z.boolean().default(false),
  /** One variant for each: 0 is the look as it is, any other number moves all its seeds. */
  seeds: z.array(z.number().int().min(0).max(1_000_000)).min(1).max(64).default([0]),
  /** Kept variants of the look, by name, besides those. */
  variants: z.array(z.string().min(1).max(60)).max(64).default([]),
})
export type DeliverySettings = z.infer<typeof deliverySchema>
export const DELIVERY_DEFAULTS: DeliverySettings = deliverySchema.parse({})

/** Checks unknown data and returns it as settings. @throws Error with one sentence that says what is wrong and where */
export function parseDelivery(data: unknown): DeliverySettings {
  const read = deliverySchema.safeParse(data)
  if (read.success) return read.data
  const issue = read.error.issues[0]!
  throw new DeliveryError(
    `These are not delivery settings: ${issue.path.join('.') || 'the document'}: ${issue.message}.`,
  )
}

/** A delivery that cannot be made. The message is one sentence for the artist. */
export class DeliveryError extends Error {}
