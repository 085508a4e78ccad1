/** What can run through a wire. Colors are linear with Rec. 709 primaries; values are nominally 0..1. */
export const PORT_TYPES = ['value', 'color', 'vector', 'finish'] as const
export type PortType = typeof PORT_TYPES[number]

/** The letter or letters on a port's tab, so that a type is never told by color alone. */
export const PORT_LETTERS: Record<PortType, string> = { value: 'v', color: 'c', vector: 'xyz', finish: 'f' }

export type Rgb = [number, number, number]
export interface Stop { at: number, color: Rgb }

/** The channels of a finish, with how many numbers each has and what shows where no finish sets it. */
export const CHANNELS = {
  baseColor: { title: 'Base color', size: 3, fallback: [0.5, 0.5, 0.5] },
  metalness: { title: 'Metalness', size: 1, fallback: [0] },
  roughness: { title: 'Roughness', size: 1, fallback: [0.5] },
} as const satisfies Record<string, { title: string, size: 1 | 3, fallback: readonly number[] }>
export type Channel = keyof typeof CHANNELS
export const CHANNEL_NAMES = Object.keys(CHANNELS) as Channel[]
