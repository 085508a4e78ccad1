/** What can run through a wire. Colors are linear with Rec. 709 primaries; values are nominally 0..1. */
export const PORT_TYPES = ['value', 'color', 'vector', 'finish'] as const
export type PortType = (typeof PORT_TYPES)[number]

/** The letter or letters on a port's tab, so that a type is never told by color alone. */
export const PORT_LETTERS: Record<PortType, string> = { value: 'v', color: 'c', vector: 'xyz', finish: 'f' }

export type Rgb = [number, number, number]
export interface Stop {
  at: number
  color: Rgb
}
/** A part, by its key, whose draw is rolled again some times, or is a value of its own. */
export interface Pin {
  part: string
  value?: number
  roll?: number
}
/** A point of a curve; both from 0 to 1. */
export interface CurvePoint {
  x: number
  y: number
}

/**
 * The channels of a finish, with how many numbers each has and what shows where no finish sets it. Colors are linear;
 * height is in millimeters along the normal; emission is the color times its intensity; translucency is the share of
 * diffuse light that passes through, then the color that it takes.
 */
export const CHANNELS = {
  baseColor: { title: 'Base color', size: 3, fallback: [0.5, 0.5, 0.5] },
  metalness: { title: 'Metalness', size: 1, fallback: [0] },
  roughness: { title: 'Roughness', size: 1, fallback: [0.5] },
  height: { title: 'Height', size: 1, fallback: [0] },
  emission: { title: 'Emission', size: 3, fallback: [0, 0, 0] },
  opacity: { title: 'Opacity', size: 1, fallback: [1] },
  translucency: { title: 'Translucency', size: 4, fallback: [0, 1, 1, 1] },
} as const satisfies Record<string, { title: string; size: 1 | 3 | 4; fallback: readonly number[] }>
/** What the numbers of a channel are called, where it has several. */
export const CHANNEL_LANES: Record<number, readonly string[]> = {
  1: [''],
  3: ['.r', '.g', '.b'],
  4: ['', '.r', '.g', '.b'],
}
export type Channel = keyof typeof CHANNELS
export const CHANNEL_NAMES = Object.keys(CHANNELS) as Channel[]
