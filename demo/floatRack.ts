import type { Mesh } from '../core/mesh/mesh'
import { assemble, type DemoPart, type Placement } from './assemble'
import type { DemoCounts } from './index'
import { bar, grid, lathe, random, ring, type Point, type Shape } from './shapes'

const STRINGS = 8
const PER_STRING = 15
const GOLDEN_ANGLE = Math.PI * (3 - Math.sqrt(5))
const SUN: Point = [0.48, 0.72, 0.5]

/** Blown glass: a ball a little flattened, with the seal of the blowpipe at its foot. */
function glassFloat(radius: number, next: () => number): Shape {
  const flat = 0.93 + 0.05 * next()
  const lean = next() * 0.02
  const phase = next() * 6
  return lathe(24, 14, v => {
    const a = v * Math.PI
    const swell = 1 + lean * Math.sin(2 * a + phase) + 0.05 * Math.exp(-(((a - Math.PI) / 0.22) ** 2))
    return [v === 0 || v === 1 ? 0 : radius * swell * Math.sin(a), radius * swell * flat * Math.cos(a)]
  })
}

/** A rope's tube: two strands that turn around each other. */
const strands =
  (thick: number, turns: number) =>
  (along: number, across: number): number =>
    thick * (1 + 0.14 * Math.cos(2 * across - turns * along))

/** Right-handed axes with `y` along a direction. */
function axesAlong(y: Point): Required<Pick<Placement, 'x' | 'y' | 'z'>> {
  const help: Point = Math.abs(y[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]
  const cross = (a: Point, b: Point): Point => [
    a[1] * b[2] - a[2] * b[1],
    a[2] * b[0] - a[0] * b[2],
    a[0] * b[1] - a[1] * b[0],
  ]
  const unit = (a: Point): Point => a.map(q => q / Math.hypot(...a)) as Point
  const x = unit(cross(y, help))
  return { x, y, z: cross(x, y) }
}

/** Height of the beam, from string to string, and from the middle to the last string. */
const TOP = 2.02
const PITCH = 0.3
const HALF = ((STRINGS - 1) * PITCH) / 2

type Add = (object: string, material: 'glass' | 'rope' | 'steel', group: number, shape: Shape, place: Placement) => void

/** Ropes, and on each its floats with their bands and eyelets. */
function addStrings(add: Add, next: () => number): void {
  for (let s = 0; s < STRINGS; s++) {
    const object = `String ${s + 1}`
    const x0 = s * PITCH - HALF
    const end = 0.2 + next() * 0.1
    const turn = next() * 6.28
    const sway = (y: number) => x0 + 0.012 * Math.sin(y * 3 + turn)
    const length = TOP - end
    add(
      object,
      'rope',
      0,
      grid(
        8,
        60,
        (u, v) => {
          const a = -u * 2 * Math.PI
          const y = TOP - v * length
          const r = strands(0.006, 1)(v * 160, a) * (v === 0 || v === 1 ? 0 : 1)
          return [sway(y) - x0 + r * Math.sin(a), y, r * Math.cos(a)]
        },
        { around: true },
      ),
      { at: [x0, 0, 0] },
    )
    for (let i = 0; i < PER_STRING; i++) {
      const radius = 0.05 + 0.022 * next() ** 1.5
      const y = TOP - 0.16 - (i * (length - 0.24)) / (PER_STRING - 1)
      const angle = turn + i * GOLDEN_ANGLE
      const out: Point = [Math.sin(angle), 0, Math.cos(angle)]
      const reach = radius + 0.018
      const center: Point = [sway(y) + out[0] * reach, y, out[2] * reach]
      // The float hangs by its eyelet: its own y axis points to the rope, tilted up a little.
      const axes = axesAlong([-out[0] * 0.8, 0.6, -out[2] * 0.8])
      add(object, 'glass', i + 1, glassFloat(radius, next), { at: center, ...axes })
      add(object, 'rope', i + 1, ring(28, 8, radius + 0.002, strands(0.0055, 16)), { at: center, ...axes })
      const eye: Point = [0, 1, 2].map(k => center[k]! + axes.y[k]! * (radius * 0.98 + 0.006)) as Point
      add(
        object,
        'steel',
        i + 1,
        ring(14, 7, 0.0085, () => 0.0028),
        { at: eye, x: axes.y, y: axes.x, z: axes.z.map(q => -q) as Point },
      )
    }
  }
}

/** What they hang on. */
function addRack(add: Add): void {
  const width = HALF * 2 + 0.46
  const x = width / 2 - 0.04
  const steel = (shape: Shape, place: Placement) => add('Rack', 'steel', 0, shape, place)
  const lying: Pick<Placement, 'x' | 'y' | 'z'> = { x: [0, -1, 0], y: [1, 0, 0], z: [0, 0, 1] }
  for (const side of [-1, 1]) {
    steel(bar(0.07, 0.05, 2.06, 0.006), { at: [side * x, 0.03, 0] })
    steel(bar(0.06, 0.09, 0.62, 0.008), { at: [side * x, 0.03, -0.31], x: [1, 0, 0], y: [0, 0, 1], z: [0, -1, 0] })
    for (const dz of [-0.22, 0.22]) {
      steel(
        lathe(
          6,
          5,
          v =>
            (
              [
                [0, 0.009],
                [0.011, 0.009],
                [0.013, 0.006],
                [0.013, 0.001],
                [0.013, 0],
                [0, 0],
              ] as [number, number][]
            )[Math.round(v * 5)]!,
        ),
        { at: [side * x, 0.078, dz] },
      )
    }
  }
  steel(bar(0.05, 0.06, width + 0.1, 0.007), { at: [-(width + 0.1) / 2, 2.1, 0], ...lying })
  steel(bar(0.04, 0.04, width - 0.16, 0.005), { at: [-(width - 0.16) / 2, 0.16, 0], ...lying })
  for (let s = 0; s < STRINGS; s++) {
    steel(
      ring(20, 8, 0.022, () => 0.005),
      { at: [s * PITCH - HALF, 2.05, 0], x: [1, 0, 0], y: [0, 0, 1], z: [0, -1, 0] },
    )
  }
}

/**
 * A steel rack with eight ropes, each hung with fifteen glass floats; every float has a rope band and an eyelet.
 * Meters, Y up. Vertex maps: `sunward` (how much a vertex faces the afternoon sun, 0 to 1), `glass` and `rope` (1 on
 * that material), `group` (a number for each float with its band and eyelet, within its string).
 */
export function floatRack(): { mesh: Mesh; counts: DemoCounts } {
  const next = random(7)
  const parts: DemoPart[] = []
  const sunLength = Math.hypot(...SUN)
  const sunward = (_p: Point, n: Point) => Math.max(0, (n[0] * SUN[0] + n[1] * SUN[1] + n[2] * SUN[2]) / sunLength)
  const add: Add = (object, material, group, shape, place) =>
    parts.push({
      object,
      material,
      shape,
      place,
      maps: {
        sunward,
        glass: () => (material === 'glass' ? 1 : 0),
        rope: () => (material === 'rope' ? 1 : 0),
        group: () => group,
      },
    })
  addStrings(add, next)
  addRack(add)
  const { mesh, patches } = assemble(parts)
  return {
    mesh,
    counts: {
      objects: STRINGS + 1,
      groups: STRINGS * (PER_STRING + 1) + 1,
      parts: parts.length,
      patches,
      tiles: 1,
      ofNote: { floats: STRINGS * PER_STRING },
    },
  }
}
