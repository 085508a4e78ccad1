type Triple = [number, number, number]
/** A lamp or an open sky seen as a glowing plate: radiance, size and place in meters, around the middle of the mesh. */
export interface Panel {
  radiance: number | Triple
  size: Triple
  at: Triple
}
export interface Rig {
  title: string
  help: string
  /** Radiance of the surroundings from straight down (-1) to straight up (1). */
  dome(up: number): number | Triple
  panels: readonly Panel[]
}

/** A radiance that may be one number for all three colors. */
export const tripleOf = (radiance: number | Triple): Triple =>
  typeof radiance === 'number' ? [radiance, radiance, radiance] : radiance

/**
 * A panel as it is seen from the middle of the mesh: where it is (of length 1), its radiance, and its solid angle in
 * steradian.
 */
export interface Lamp {
  from: Triple
  radiance: Triple
  solidAngle: number
}
export function lampOf({ radiance, size, at }: Panel): Lamp {
  const distance = Math.hypot(...at)
  return {
    from: at.map(x => x / distance) as Triple,
    radiance: tripleOf(radiance),
    solidAngle: (size[0] * size[1]) / distance ** 2,
  }
}

/**
 * The lights that come with the stage, made in code. Only the last has hue: it shows how a look stands up to warm
 * light.
 */
export const RIGS = {
  overcast: {
    title: 'Overcast',
    help: 'A gray sky, lighter above, with one broad soft window: for judging color.',
    dome: up => 0.46 + 0.3 * Math.max(0, up) ** 0.6 - 0.1 * Math.max(0, -up),
    panels: [
      { radiance: 7, size: [6, 5, 0.1], at: [-9, 6, 6] },
      { radiance: 3, size: [1.2, 8, 0.1], at: [10, 4, -5] },
      { radiance: 4, size: [7, 2, 0.1], at: [2, 13, -3] },
    ],
  },
  lowSun: {
    title: 'Low sun',
    help: 'A small hard light from the side, a dim sky: shows height and roughness.',
    dome: up => 0.2 + 0.34 * Math.max(0, up),
    panels: [{ radiance: 260, size: [1.5, 1.5, 0.1], at: [-14, 4.5, 6] }],
  },
  strips: {
    title: 'Workshop strips',
    help: 'Rows of long lamps overhead: their reflections run over every bump.',
    dome: up => (up > 0.2 ? 0.1 : 0.16),
    panels: [-7.5, -2.5, 2.5, 7.5].map((z): Panel => ({ radiance: 13, size: [16, 0.5, 0.1], at: [0, 10, z] })),
  },
  lamp: {
    title: 'Night lamp',
    help: 'One warm lamp near by, and next to nothing else: shows what glows.',
    dome: () => [0.012, 0.014, 0.018],
    panels: [{ radiance: [95, 62, 34], size: [1.6, 1.6, 0.1], at: [5, 8, 7] }],
  },
} as const satisfies Record<string, Rig>
export type RigName = keyof typeof RIGS
