import * as z from 'zod'
import type { ComputeHooks, Geometry } from '../geometry'
import type { RayPoints, RayScene } from '../rays'
import type { Round } from '../round'

/** A length, in meters. */
export const length = z.number().positive().max(1000)
/** How many rays are cast from each point. */
export const rays = z.number().int().min(4).max(4096)
const name = z.string().trim().min(1).max(80)

/** A setting as panels show it; lengths are shown in millimeters. */
export type MapField =
  | { key: string; type: 'length' | 'rays'; title: string; help: string }
  | { key: string; type: 'choice'; title: string; choices: readonly { value: string; title: string }[] }
  | { key: string; type: 'direction'; title: string }

/** The field of how far a map looks. */
export const DISTANCE_FIELD: MapField = {
  key: 'distance',
  type: 'length',
  title: 'Distance',
  help: 'How far to look.',
}

/** The field of {@link rays}. */
export const RAYS_FIELD: MapField = {
  key: 'rays',
  type: 'rays',
  title: 'Rays',
  help: 'More rays are smoother and take longer.',
}

/** What checks each of the settings. */
type Shape<V> = { [P in keyof V]: z.ZodType<V[P]> }

/** How the values come to be: at once, or in rounds of rays that several threads share. */
type Work<V> =
  | {
      /** `components` numbers for each vertex of the mesh; undefined where it was stopped. */
      compute(geometry: Geometry, settings: V, hooks: ComputeHooks): Float32Array | undefined
    }
  | {
      /** Adds what a round of rays finds to each point's sum, which is divided by the number of rays in the end. */
      cast(scene: RayScene, points: RayPoints, settings: V, round: Round, sums: Float32Array): void
      /** Whether rays meet all parts, so that the tree of all of them is needed. */
      meetsAll(settings: V): boolean
    }

/** One kind of geometry map: what it is called, what can be set, and how it is computed. */
export type MapDeclaration<K extends string, V> = {
  kind: K
  title: string
  /** What its numbers mean, in a sentence or two. */
  help: string
  /** Numbers per vertex, and what they are called where there are three. */
  components: 1 | 3
  lanes?: readonly [string, string, string]
  /** What can be set besides its name; lengths in meters. */
  settings: Shape<V>
  /** The settings in the order of panels. */
  fields: readonly MapField[]
  /** Settings to begin with. @param diagonal of the mesh, in meters */
  suggested(diagonal: number): NoInfer<V>
  /** What it is first called; its title in small letters where this is left out. */
  called?: string
  /** Whether the values depend on how parts are grouped, besides the mesh and the settings. */
  byGroups?(settings: NoInfer<V>): boolean
} & Work<NoInfer<V>>

type Schema<K extends string, V> = z.ZodObject<{ kind: z.ZodLiteral<K>; name: typeof name } & Shape<V>, z.core.$strict>

/** Declares a kind of geometry map. */
export function defineMap<K extends string, V>(
  declared: MapDeclaration<K, V>,
): MapDeclaration<K, V> & { schema: Schema<K, V> } {
  const schema = z.strictObject({ kind: z.literal(declared.kind), name, ...declared.settings })
  return { ...declared, schema: schema as unknown as Schema<K, V> }
}

/** A length near a share of something, to one digit. */
export const rounded = (meters: number): number => Number(meters.toPrecision(1))
