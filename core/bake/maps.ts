import * as z from 'zod'
import { CHANNEL_LANES, CHANNEL_NAMES, CHANNELS } from '../graph/types'

/**
 * What a texel's number can be: a lane of a channel (`baseColor.r`), of the normal in tangent space (`normal.x`), the
 * occlusion map, a flat color of the part, its group or its object, their numbers (`id.part`, from 1: 0 is where
 * nothing lies), whether a part is in a part set (`set:ID`, 0 or 1), a port of a node (`port:NODE/PORT`, with `.r` or
 * `.x` where it has three numbers), or a constant.
 */
const FIXED = new Set([
  '0',
  '1',
  'occlusion',
  ...['x', 'y', 'z'].map(k => `normal.${k}`),
  ...['part', 'group', 'object'].flatMap(what => [`id.${what}`, ...['r', 'g', 'b'].map(k => `${what}.${k}`)]),
  ...CHANNEL_NAMES.flatMap(c => CHANNEL_LANES[CHANNELS[c].size]!.map(lane => c + lane)),
])
export const laneSchema = z
  .string()
  .max(200)
  .refine(s => FIXED.has(s) || /^(port:.+\/[^/]+|set:.+)$/.test(s), 'there is nothing of that name to bake')

/** A picture to be baked: one to four lanes. Those of color are encoded by sRGB where the file has 8 or 16 bits. */
export const mapSpecSchema = z.strictObject({
  name: z
    .string()
    .trim()
    .min(1)
    .max(60)
    .regex(/^[\w .+-]+$/, 'letters, digits, spaces, dots, dashes and underscores only'),
  lanes: z.array(laneSchema).min(1).max(4),
  space: z.enum(['srgb', 'linear']),
})
export type MapSpec = z.infer<typeof mapSpecSchema>

const rgb = (name: string): string[] => ['r', 'g', 'b'].map(k => `${name}.${k}`)

/** The pictures that can be asked for by a word. */
export const MAPS = {
  baseColor: { title: 'Base color', lanes: rgb('baseColor'), space: 'srgb' },
  metalness: { title: 'Metalness', lanes: ['metalness'], space: 'linear' },
  roughness: { title: 'Roughness', lanes: ['roughness'], space: 'linear' },
  orm: { title: 'Occlusion, roughness, metalness', lanes: ['occlusion', 'roughness', 'metalness'], space: 'linear' },
  normal: { title: 'Normal, from the height', lanes: ['normal.x', 'normal.y', 'normal.z'], space: 'linear' },
  height: { title: 'Height', lanes: ['height'], space: 'linear' },
  emission: { title: 'Emission', lanes: rgb('emission'), space: 'srgb' },
  opacity: { title: 'Opacity', lanes: ['opacity'], space: 'linear' },
  translucency: { title: 'Translucency', lanes: ['translucency'], space: 'linear' },
  translucencyColor: { title: 'Translucency color', lanes: rgb('translucency'), space: 'srgb' },
  parts: { title: 'Parts as flat colors', lanes: rgb('part'), space: 'srgb' },
  groups: { title: 'Groups as flat colors', lanes: rgb('group'), space: 'srgb' },
  objects: { title: 'Objects as flat colors', lanes: rgb('object'), space: 'srgb' },
  partNumbers: { title: 'Part numbers (EXR)', lanes: ['id.part'], space: 'linear' },
  groupNumbers: { title: 'Group numbers (EXR)', lanes: ['id.group'], space: 'linear' },
  objectNumbers: { title: 'Object numbers (EXR)', lanes: ['id.object'], space: 'linear' },
} as const satisfies Record<string, { title: string; lanes: string[]; space: 'srgb' | 'linear' }>
export type MapName = keyof typeof MAPS
export const MAP_NAMES = Object.keys(MAPS) as MapName[]
export const mapOf = (name: MapName): MapSpec => ({ name, lanes: [...MAPS[name].lanes], space: MAPS[name].space })

/**
 * How the numbers of a picture are written. EXR holds them as they are (linear, height in millimeters, emission with
 * its strength), but normals, which always run from 0 to 1.
 */
export const PICTURE_FORMATS = {
  png8: { title: '8-bit PNG', ending: 'png', bits: 8, asked: ['png8'] },
  png16: { title: '16-bit PNG', ending: 'png', bits: 16, asked: ['png16'] },
  half: { title: 'EXR, half floats', ending: 'exr', pixel: 'half', asked: ['exr', 'exr-half'] },
  float: { title: 'EXR, floats', ending: 'exr', pixel: 'float', asked: ['exr-float'] },
} as const satisfies Record<string, PictureFormatDeclaration>

/** Whole numbers of so many bits, or floats; and the words by which the command line is asked for it. */
type PictureFormatDeclaration = { title: string; asked: readonly string[] } & (
  | { ending: 'png'; bits: 8 | 16 }
  | { ending: 'exr'; pixel: 'half' | 'float' }
)
export type PictureFormat = keyof typeof PICTURE_FORMATS
export const PICTURE_WORDS = Object.keys(PICTURE_FORMATS) as [PictureFormat, ...PictureFormat[]]
export const endingOf = (format: PictureFormat): 'exr' | 'png' => PICTURE_FORMATS[format].ending
/** Whether a picture holds numbers as they are, in EXR, and not as 8 or 16 bits of PNG. */
export const isExr = (format: PictureFormat): boolean => endingOf(format) === 'exr'
/** Whether a picture holds numbers that must not be mixed with one another. */
export const countsThings = (spec: Pick<MapSpec, 'lanes'>): boolean => spec.lanes.some(l => l.startsWith('id.'))
export const BAKE_SIZES = [256, 512, 1024, 2048, 4096, 8192] as const
