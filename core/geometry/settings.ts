import { z } from 'zod'
import { unhandled } from '../unhandled'

const name = z.string().trim().min(1).max(80)
const distance = z.number().positive().max(1000)
const rays = z.number().int().min(4).max(4096)

/** What a geometry map is, and how it is computed. Lengths in meters. */
export const mapSettingsSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.enum(['convexity', 'concavity']), name, radius: distance }),
  z.strictObject({ kind: z.literal('occlusion'), name, distance, among: z.enum(['all', 'part']), rays }),
  z.strictObject({ kind: z.literal('thickness'), name, distance, rays }),
  z.strictObject({ kind: z.literal('facing'), name, direction: z.tuple([z.number(), z.number(), z.number()]) }),
  z.strictObject({ kind: z.literal('position'), name, space: z.enum(['world', 'object', 'group', 'part']) }),
  z.strictObject({ kind: z.literal('axis'), name }),
  z.strictObject({ kind: z.enum(['border', 'contact']), name, distance }),
])
export type MapSettings = z.infer<typeof mapSettingsSchema>
export type MapKind = MapSettings['kind']

/** How the maps are named and explained, and how many numbers each has per vertex. */
export const MAP_WORDS: Record<
  MapKind,
  { title: string; components: 1 | 3; help: string; parts?: readonly [string, string, string] }
> = {
  convexity: {
    title: 'Convexity',
    components: 1,
    help: 'Edges and bulges at the size of the radius. 1 is a sharp right-angled edge, 0 is flat or hollow.',
  },
  concavity: {
    title: 'Concavity',
    components: 1,
    help: 'Grooves and hollows at the size of the radius. 1 is a sharp right-angled corner, 0 is flat or bulging.',
  },
  occlusion: {
    title: 'Occlusion',
    components: 1,
    help: 'The share of the sky over a point that surfaces within the distance cover. 0 is open, 1 is closed off.',
  },
  thickness: {
    title: 'Thickness',
    components: 1,
    help: 'How deep the part is under the surface, as a share of the distance. 1 is that deep or deeper.',
  },
  facing: {
    title: 'Facing',
    components: 1,
    help: 'How far a surface turns toward a direction. 1 faces it, 0.5 stands across, 0 faces away.',
  },
  position: {
    title: 'Position',
    components: 3,
    help: 'Where a point is in the box of the mesh, its object, group or part, from 0 to 1 along each side.',
    parts: ['X', 'Y', 'Z'],
  },
  axis: {
    title: 'Along the part',
    components: 3,
    help: "Where a point is along, across and around its part's own longest axis, each from 0 to 1.",
    parts: ['Along', 'Across', 'Around'],
  },
  border: {
    title: 'Border distance',
    components: 1,
    help: "The way along the surface to the part's open edges (where it has none: to its creases), as a share of the distance.",
  },
  contact: {
    title: 'Contact distance',
    components: 1,
    help: 'The way to the nearest other part, as a share of the distance. 0 touches, 1 is that far or farther.',
  },
}

/** All kinds, in the order of menus. */
export const MAP_KINDS = Object.keys(MAP_WORDS) as readonly MapKind[]

/** Settings to begin with, for a mesh of a given diagonal in meters. */
export function suggestedSettings(kind: MapKind, diagonal: number): MapSettings {
  const round = (x: number) => Number(x.toPrecision(1))
  const { title } = MAP_WORDS[kind]
  switch (kind) {
    case 'convexity':
    case 'concavity':
      return { kind, name: title.toLowerCase(), radius: round(diagonal / 200) }
    case 'occlusion':
      return { kind, name: 'occlusion', distance: round(diagonal / 10), among: 'all', rays: 128 }
    case 'thickness':
      return { kind, name: 'thickness', distance: round(diagonal / 50), rays: 64 }
    case 'facing':
      return { kind, name: 'facing up', direction: [0, 1, 0] }
    case 'position':
      return { kind, name: 'position in part', space: 'part' }
    case 'axis':
      return { kind, name: 'along part' }
    case 'border':
    case 'contact':
      return { kind, name: title.toLowerCase(), distance: round(diagonal / 50) }
    default:
      return unhandled(kind)
  }
}
