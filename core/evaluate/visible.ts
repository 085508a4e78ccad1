import { CHANNEL_NAMES, CHANNELS, type Channel } from '../graph/types'
import { pointSet, type SurfacePoints } from '../mesh/sample'
import type { Program } from '../program/lower'
import { SURFACE, type Ref } from '../program/ops'

/**
 * What is seen at a pixel, as the surface pass writes it: four 32-bit words. The triangle's number plus 1, or 0 where
 * there is none, or {@link GROUND}; the weights of its second and third corner, and the way from the camera along its
 * axis in meters, as the bits of 32-bit floats.
 */
export const SEEN_WORDS = 4
/** The same words as 32-bit floats. */
export const floatsIn = (seen: Uint32Array): Float32Array => new Float32Array(seen.buffer, seen.byteOffset, seen.length)
/** The first word where the ground is seen. */
export const GROUND = 0xffffffff
/** The lane that tells the part holds its number plus 1; this where the ground is seen, 0 where nothing is. */
export const GROUND_PART = -1

/** The pictures of four lanes into which the channels of a look go, in the order of their lanes. */
export const CHANNEL_PICTURES = ['color', 'facing', 'relief', 'glow', 'through'] as const
export type ChannelPicture = (typeof CHANNEL_PICTURES)[number]

/** Layers that are looked through, where a look lets light through. */
export const LAYERS = 4

/** What stands in a lane: a number of a channel, of the normal between the vertices, or of what is seen. */
type Lane = { channel: Channel; number: number } | { normal: 0 | 1 | 2 } | 'depth' | 'part' | 'closed'
const lanesOf = (channel: Channel): Lane[] =>
  Array.from({ length: CHANNELS[channel].size }, (_, number) => ({ channel, number }))
const NORMAL: Lane[] = [{ normal: 0 }, { normal: 1 }, { normal: 2 }]

export const LANES: Record<ChannelPicture, readonly Lane[]> = {
  color: [...lanesOf('baseColor'), ...lanesOf('metalness')],
  facing: [...NORMAL, ...lanesOf('roughness')],
  relief: [...lanesOf('height'), 'depth', ...lanesOf('opacity'), 'part'],
  glow: [...lanesOf('emission'), ...lanesOf('translucency').slice(0, 1)],
  through: [...lanesOf('translucency').slice(1), 'closed'],
}

/** The pictures that a look needs: those of what shines, lets through and is closed off only where something is. */
export function picturesOf({ sets, closed }: Pick<Program, 'sets' | 'closed'>, probesColor = false): ChannelPicture[] {
  const more = sets.has('emission') || sets.has('translucency') || closed !== undefined || probesColor
  return ['color', 'facing', 'relief', ...(more ? (['glow', 'through'] as const) : [])]
}

/** A program with the normal at a point of the surface among its values. */
export function withNormal(program: Program): { program: Program; normal: [Ref, Ref, Ref] } {
  if (program.normals) return { program, normal: program.normals }
  const code = [...program.code]
  const domains = [...program.domains]
  const normal = (['normalX', 'normalY', 'normalZ'] as const).map(input => {
    const old = code.findIndex(i => i.op === 'surface' && i.input === input)
    if (old >= 0) return old
    domains.push(SURFACE)
    return code.push({ op: 'surface', input }) - 1
  }) as [Ref, Ref, Ref]
  return { program: { ...program, code, domains }, normal }
}

/**
 * The values behind the lanes of some pictures, four to a picture; undefined where a lane is no value of the program.
 */
export function lanesIn(
  pictures: readonly ChannelPicture[],
  program: Program,
  normal: readonly Ref[],
): (Ref | undefined)[] {
  return pictures.flatMap(picture =>
    Array.from({ length: 4 }, (_, k) => {
      const lane = LANES[picture][k]
      if (lane === 'closed') return program.closed
      if (!lane || typeof lane === 'string') return undefined
      return 'normal' in lane ? normal[lane.normal] : program.result[lane.channel][lane.number]
    }),
  )
}

/** The number of a channel's first lane in some pictures; undefined where they do not hold it. */
export function laneOf(pictures: readonly ChannelPicture[], channel: Channel): number | undefined {
  const at = pictures
    .flatMap(p => Array.from({ length: 4 }, (_, k) => LANES[p][k]))
    .findIndex(l => typeof l === 'object' && 'channel' in l && l.channel === channel)
  return at < 0 ? undefined : at
}

/** Every channel of the result, for programs whose result is replaced by what runs through a port. */
export const resultRoots = (program: Program): Ref[] => CHANNEL_NAMES.flatMap(c => program.result[c])

/** Finds how wide the surface is at some points, from how far away they are. */
export type Widths = (points: SurfacePoints, depths: Float32Array) => Float32Array

/**
 * The points that are seen at some pixels.
 * @param seen the words of the surface pass, row by row
 * @param pixels numbers of the pixels; at each of them a triangle is seen
 * @param widths asked only where something reads them, and once
 */
export function pointsAt(seen: Uint32Array, pixels: Uint32Array, widths?: Widths): SurfacePoints {
  const floats = floatsIn(seen)
  const points = pointSet(pixels.length)
  for (let i = 0; i < pixels.length; i++) {
    const at = pixels[i]! * SEEN_WORDS
    points.triangle[i] = seen[at]! - 1
    points.u[i] = floats[at + 1]!
    points.v[i] = floats[at + 2]!
  }
  if (!widths) return points
  let found: Float32Array | undefined
  const depths = (): Float32Array => Float32Array.from(pixels, pixel => floats[pixel * SEEN_WORDS + 3]!)
  return { ...points, footprint: { meters: () => (found ??= widths(points, depths())) } }
}

/**
 * A number from 0 to 1 for a pixel and a sample: samples of one pixel divide the range evenly, pixels have nothing in
 * common.
 */
export function ditherAt(x: number, y: number, sample: number): number {
  // Interleaved gradient noise (Jimenez, SIGGRAPH 2014), turned by the golden ratio.
  const base = (52.9829189 * ((0.06711056 * x + 0.00583715 * y) % 1)) % 1
  return (base + sample * 0.6180339887498949) % 1
}
