import * as z from 'zod'
import { unhandled } from '../../unhandled'
import axis from './axis'
import border from './border'
import concavity from './concavity'
import contact from './contact'
import convexity from './convexity'
import type { MapDeclaration } from './declare'
import facing from './facing'
import occlusion from './occlusion'
import position from './position'
import thickness from './thickness'

/** All kinds of geometry maps, in the order of menus. */
const DECLARED = [convexity, concavity, occlusion, thickness, facing, position, axis, border, contact] as const

type SchemasOf<D extends readonly { schema: z.ZodObject }[]> = { [I in keyof D]: D[I]['schema'] }
const schemas = DECLARED.map(d => d.schema) as unknown as SchemasOf<typeof DECLARED>

/** What a geometry map is, and how it is computed. Lengths in meters. */
export const mapSettingsSchema = z.discriminatedUnion('kind', schemas)
export type MapSettings = z.infer<typeof mapSettingsSchema>
export type MapKind = MapSettings['kind']

/** A declaration whose settings are only known to be those of some geometry map. */
type AnyMap = MapDeclaration<MapKind, Record<string, unknown>>

/** The declaration of each kind. */
export const GEOMETRY_MAPS = Object.fromEntries(DECLARED.map(d => [d.kind, d])) as unknown as Record<MapKind, AnyMap>
export const MAP_KINDS: readonly MapKind[] = DECLARED.map(d => d.kind)

/** The declaration that settings belong to. @throws Error where there is none */
export function declarationOf({ kind }: Pick<MapSettings, 'kind'>): AnyMap {
  return GEOMETRY_MAPS[kind] ?? unhandled(kind as never)
}

/** Settings to begin with, for a mesh of a given diagonal in meters. */
export function suggestedSettings(kind: MapKind, diagonal: number): MapSettings {
  const { title, called, suggested } = GEOMETRY_MAPS[kind]
  return { kind, name: called ?? title.toLowerCase(), ...suggested(diagonal) } as MapSettings
}
