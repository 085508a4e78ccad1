import type { Mesh } from '../core/mesh/mesh'
import { assemble, type DemoPart } from './assemble'
import type { DemoCounts } from './index'
import { grid, lathe, random, ring, tube, type Point, type Shape } from './shapes'

const ROWS = 18
const EAVE = 1.24
const HEIGHT = 2
/** Radius of the deck at a share of its height: a cone that flares toward the eave. */
const radiusAt = (t: number): number => 0.09 + (EAVE - 0.09) * (0.82 * (1 - t) + 0.18 * (1 - t) ** 3)
/** The wind that brings the rain. */
const WIND: Point = [-0.62, 0.45, 0.64]

/**
 * A ceramic scale, round at its lower end, hollow below and thicker toward the lip. Hangs from the origin down −y,
 * faces +z.
 */
function scale(width: number, length: number, next: () => number): Shape {
  const thick = 0.0065 + 0.002 * next()
  const bow = 0.5 + 0.3 * next()
  const lift = 0.012 + 0.006 * next()
  const lean = (next() - 0.5) * 0.012
  return grid(
    12,
    11,
    (u, v) => {
      const t = v
      const round = t > 0.62 ? Math.sqrt(Math.max(0, 1 - ((t - 0.62) / 0.38) ** 2)) : 1
      const half = (width / 2) * (0.94 + 0.06 * t) * round
      const end = v === 0 || v === 1 ? 0 : 1
      const a = -u * 2 * Math.PI
      const x = half * Math.sign(Math.sin(a)) * Math.abs(Math.sin(a)) ** 0.6 * end
      const body = thick * (0.6 + 0.4 * t) * Math.sign(Math.cos(a)) * Math.abs(Math.cos(a)) ** 0.6 * end
      return [x + lean * t, -t * length, body - (bow * x * x) / width + lift * t * t]
    },
    { around: true },
  )
}

type Add = (
  object: string,
  material: string,
  group: number,
  shape: Shape,
  place: DemoPart['place'],
  tile: number,
) => void

/** Rows of scales that overlap, each a little out of line. @returns how many there are */
function addScales(add: Add, next: () => number): number {
  let scales = 0
  for (let row = 0; row < ROWS; row++) {
    const t = (row + 0.9) / (ROWS + 0.6)
    const y = t * HEIGHT
    const r = radiusAt(t) + 0.012
    const below = t - 0.9 / (ROWS + 0.6)
    // The slope of the deck here: outward and down.
    const out = radiusAt(below) - radiusAt(t)
    const down = (t - below) * HEIGHT
    const long = Math.hypot(out, down) * 1.62
    const count = Math.max(9, Math.round((2 * Math.PI * radiusAt(below)) / 0.158))
    const width = ((2 * Math.PI * (radiusAt(below) + 0.01)) / count) * 0.965
    for (let i = 0; i < count; i++) {
      const a = ((i + (row % 2) / 2 + (next() - 0.5) * 0.05) / count) * 2 * Math.PI
      const tilt = Math.atan2(out, down) + 0.07 + (next() - 0.5) * 0.02
      const side: Point = [Math.cos(a), 0, -Math.sin(a)]
      const radial: Point = [Math.sin(a), 0, Math.cos(a)]
      const up: Point = [-radial[0] * Math.sin(tilt), Math.cos(tilt), -radial[2] * Math.sin(tilt)]
      const face: Point = [radial[0] * Math.cos(tilt), Math.sin(tilt), radial[2] * Math.cos(tilt)]
      add(
        'Scales',
        'ceramic',
        row + 1,
        scale(width, long, next),
        { at: [radial[0] * r, y, radial[2] * r], x: side, y: up, z: face },
        row < 8 ? 0 : 1,
      )
      scales++
    }
  }
  return scales
}

/** What the scales lie on and are crowned by. */
function addRest(add: Add): void {
  add(
    'Deck',
    'wood',
    0,
    lathe(48, 14, v => {
      if (v === 0) return [0, HEIGHT * 0.985]
      if (v === 1) return [0, 0.02]
      const up = 1 - (v - 1 / 14) / (12 / 14)
      return [radiusAt(up) - 0.02, up * HEIGHT * 0.97 + 0.03]
    }),
    { at: [0, 0, 0] },
    1,
  )
  add(
    'Eave',
    'copper',
    0,
    ring(72, 10, EAVE + 0.03, () => 0.035),
    { at: [0, 0.005, 0] },
    1,
  )
  for (let i = 0; i < 8; i++) {
    const a = ((i + 0.5) / 8) * 2 * Math.PI
    const x = Math.sin(a)
    const z = Math.cos(a)
    add(
      'Brackets',
      'copper',
      0,
      tube(
        8,
        14,
        v => [x * (EAVE - 0.02 - 0.26 * v), -0.02 - 0.3 * Math.sin((v * Math.PI) / 2), z * (EAVE - 0.02 - 0.26 * v)],
        () => 0.017,
      ),
      { at: [0, 0, 0] },
      1,
    )
  }
  const profile: [number, number][] = [
    [0, 0.52],
    [0.006, 0.5],
    [0.011, 0.36],
    [0.05, 0.33],
    [0.062, 0.29],
    [0.05, 0.25],
    [0.018, 0.22],
    [0.022, 0.13],
    [0.085, 0.09],
    [0.1, 0.05],
    [0.108, 0],
    [0, -0.015],
  ]
  add(
    'Finial',
    'copper',
    0,
    lathe(24, profile.length - 1, v => profile[Math.round(v * (profile.length - 1))]!),
    { at: [0, HEIGHT * 0.985, 0] },
    1,
  )
}

/**
 * The roof of a kiosk's turret: about 500 glazed ceramic scales in rows that overlap, on a deck with an eave ring,
 * under a finial. Meters, Y up, two texture tiles (lower rows in 1001, the rest in 1002). Vertex maps: `slope` (0 at
 * the eave, 1 at the tip), `weather` (how far a vertex faces the rain, 0 to 1), `ceramic` (1 on the scales), `group` (a
 * number for each row of scales).
 */
export function kioskRoof(): { mesh: Mesh; counts: DemoCounts } {
  const next = random(23)
  const parts: DemoPart[] = []
  const wind = Math.hypot(...WIND)
  const add: Add = (object, material, group, shape, place, tile) =>
    parts.push({
      object,
      material,
      shape,
      place,
      tile,
      maps: {
        slope: p => Math.min(1, Math.max(0, p[1] / HEIGHT)),
        weather: (_p, n) => Math.max(0, (n[0] * WIND[0] + n[1] * WIND[1] + n[2] * WIND[2]) / wind),
        ceramic: () => (material === 'ceramic' ? 1 : 0),
        group: () => group,
      },
    })
  const scales = addScales(add, next)
  addRest(add)
  const { mesh, patches } = assemble(parts)
  return {
    mesh,
    counts: { objects: 5, groups: ROWS + 4, parts: parts.length, patches, tiles: 2, ofNote: { scales } },
  }
}
