import type { Mesh } from '../core/mesh/mesh'
import { assemble, type DemoPart, type Placement } from './assemble'
import type { DemoCounts } from './index'
import { bar, creased, lathe, prism, random, tube, type Point, type Shape } from './shapes'

type Profile = readonly (readonly [radius: number, y: number])[]
/** A turned body with sharp edges, profile from top to bottom. */
const turned = (columns: number, profile: Profile): Shape =>
  creased(
    lathe(columns, profile.length - 1, v => profile[Math.round(v * (profile.length - 1))] as [number, number]),
    32,
  )

/** Axes that lay a shape's y along the world's x. */
const ACROSS: Pick<Placement, 'x' | 'y' | 'z'> = { x: [0, -1, 0], y: [1, 0, 0], z: [0, 0, 1] }

/** Height of the shaft. */
const AXLE = 0.46
/** Half the length of the drum, its radius, and that of its flanges. */
const HALF = 0.24
const DRUM = 0.115
const FLANGE = 0.215
/** How far the frame's sides are from the middle. */
const FRAME = 0.335

type Add = (
  object: string,
  material: 'paint' | 'iron' | 'steel' | 'rope',
  shape: Shape,
  place: Placement,
  group?: number,
) => void
/** @returns how many parts it adds */
type Bolt = (group: number, at: Point, axes: Pick<Placement, 'x' | 'y' | 'z'>) => number

/** A washer, and a head that is turned at random. */
const bolts =
  (add: Add, next: () => number): Bolt =>
  (group, at, axes) => {
    const turn = (next() * Math.PI) / 3
    const x = axes.x!
    const z = axes.z!
    const spun = {
      y: axes.y!,
      x: x.map((q, k) => q * Math.cos(turn) + z[k]! * Math.sin(turn)) as Point,
      z: z.map((q, k) => q * Math.cos(turn) - x[k]! * Math.sin(turn)) as Point,
    }
    add(
      'Bolts',
      'steel',
      turned(20, [
        [0, 0.003],
        [0.0165, 0.003],
        [0.0172, 0.0022],
        [0.0172, 0],
        [0, 0],
      ]),
      { at, ...axes },
      group,
    )
    add(
      'Bolts',
      'steel',
      turned(6, [
        [0, 0.0135],
        [0.0095, 0.0135],
        [0.0118, 0.0122],
        [0.0118, 0.0035],
        [0, 0.0035],
      ]),
      { at, ...spun },
      group,
    )
    return 2
  }

/** Drum with flanges. */
function addDrum(add: Add): void {
  add(
    'Drum',
    'paint',
    turned(56, [
      [0, HALF],
      [DRUM, HALF],
      [DRUM, HALF * 0.4],
      [DRUM - 0.004, HALF * 0.39],
      [DRUM - 0.004, HALF * 0.36],
      [DRUM, HALF * 0.35],
      [DRUM, -HALF * 0.35],
      [DRUM - 0.004, -HALF * 0.36],
      [DRUM - 0.004, -HALF * 0.39],
      [DRUM, -HALF * 0.4],
      [DRUM, -HALF],
      [0, -HALF],
    ]),
    { at: [0, AXLE, 0], ...ACROSS },
  )
  for (const side of [1, -1]) {
    // Outer face: a rim, a dished web, a hub.
    const face: Profile = [
      [0, 0.034],
      [0.05, 0.034],
      [0.056, 0.028],
      [0.06, 0.014],
      [0.155, 0.011],
      [0.163, 0.021],
      [0.205, 0.021],
      [FLANGE, 0.014],
      [FLANGE, 0.002],
      [0.205, -0.004],
      [0, -0.004],
    ]
    add('Drum', 'paint', turned(72, face), {
      at: [side * (HALF + 0.005), AXLE, 0],
      x: [0, -side, 0],
      y: [side, 0, 0],
      z: [0, 0, 1],
    })
  }
}

/** Turns of the rope around the drum, half its thickness, and how fast its strands turn, in radians to a turn. */
const TURNS = 7.4
const ROPE = 0.0135
const LAY = 40
/** A strand's middle is so far from the rope's, and so thick: three of them fill the rope. */
const STRAND_AWAY = ROPE * 0.52
const STRAND = ROPE * 0.5

/** The middle of the rope, or `away` from it toward an angle around it; 0 is outward of the drum. */
function alongRope(v: number, away = 0, angle = 0): Point {
  const a = v * TURNS * 2 * Math.PI
  const r = DRUM + ROPE * 0.92 + away * Math.cos(angle)
  return [-0.205 + v * TURNS * ROPE * 2.05 + away * Math.sin(angle), AXLE + r * Math.cos(a), r * Math.sin(a)]
}

/** The rope lies on the drum, whole or as its three strands. */
function addRope(add: Add, isLaid: boolean): void {
  const whole = (): Shape =>
    tube(
      10,
      420,
      v => alongRope(v),
      (v, a) => ROPE * (1 + 0.09 * Math.cos(3 * a - v * TURNS * 120)),
    )
  const strand = (number: number): Shape =>
    tube(
      10,
      1200,
      v => alongRope(v, STRAND_AWAY, (number * 2 * Math.PI) / 3 + v * TURNS * LAY),
      () => STRAND,
    )
  for (const shape of isLaid ? [strand(0), strand(1), strand(2)] : [whole()])
    add('Rope', 'rope', shape, { at: [0, 0, 0] })
}

/** One side of the frame: two legs, a foot and a bearing. */
function addSide(add: Add, side: 1 | -1): void {
  const object = side > 0 ? 'Frame right' : 'Frame left'
  const x = side * FRAME
  add(object, 'iron', bar(0.09, 0.46, 0.03, 0.006), { at: [x, 0.026, 0] })
  for (const lean of [1, -1]) {
    const foot: Point = [x, 0.045, lean * 0.17]
    const head: Point = [x, AXLE - 0.02, lean * 0.035]
    const d = head.map((q, k) => q - foot[k]!) as Point
    const l = Math.hypot(...d)
    const y = d.map(q => q / l) as Point
    add(object, 'iron', bar(0.042, 0.062, l, 0.007), { at: foot, x: [1, 0, 0], y, z: [0, -y[2], y[1]] })
  }
  add(object, 'iron', bar(0.034, 0.24, 0.036, 0.006), { at: [x, 0.19, 0] })
  add(
    object,
    'iron',
    turned(40, [
      [0, 0.042],
      [0.03, 0.042],
      [0.034, 0.036],
      [0.052, 0.032],
      [0.066, 0.024],
      [0.068, 0.018],
      [0.068, -0.026],
      [0.064, -0.032],
      [0, -0.032],
    ]),
    { at: [x, AXLE, 0], x: [0, -side, 0], y: [side, 0, 0], z: [0, 0, 1] },
  )
}

/** @returns how many parts it adds */
function addSideBolts(bolt: Bolt, side: 1 | -1): number {
  let bolts = 0
  for (const z of [-0.195, -0.13, 0.13, 0.195])
    bolts += bolt(side > 0 ? 1 : 2, [side * FRAME + side * 0.028, 0.056, z], {
      x: [1, 0, 0],
      y: [0, 1, 0],
      z: [0, 0, 1],
    })
  for (let i = 0; i < 8; i++) {
    const a = ((i + 0.5) / 8) * 2 * Math.PI
    bolts += bolt(side > 0 ? 3 : 4, [side * (HALF + 0.0245), AXLE + Math.cos(a) * 0.184, Math.sin(a) * 0.184], {
      x: [0, -side, 0],
      y: [side, 0, 0],
      z: [0, 0, 1],
    })
  }
  return bolts
}

/** A base plate, and what stands on it. @returns how many parts of bolts there are */
function addFrame(add: Add, bolt: Bolt): number {
  let bolts = 0
  add('Base', 'iron', bar(0.52, 0.86, 0.028, 0.006), { at: [0, 0, 0], x: [0, 0, 1], y: [0, 1, 0], z: [-1, 0, 0] })
  for (const side of [1, -1] as const) {
    addSide(add, side)
    bolts += addSideBolts(bolt, side)
  }
  for (const x of [-0.4, 0, 0.4])
    for (const z of [-0.225, 0.225]) bolts += bolt(5, [x, 0.028, z], { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] })
  add('Base', 'iron', bar(0.05, 0.05, FRAME * 2, 0.006), { at: [-FRAME, 0.12, -0.13], ...ACROSS })
  return bolts
}

/** Shaft and wheel. */
function addGear(add: Add): void {
  add(
    'Gear',
    'steel',
    turned(28, [
      [0, 0.53],
      [0.02, 0.53],
      [0.023, 0.526],
      [0.023, -0.425],
      [0.02, -0.43],
      [0, -0.43],
    ]),
    { at: [0, AXLE, 0], ...ACROSS },
  )
  const teeth = 28
  const tooth = (a: number) => {
    const t = ((a / (2 * Math.PI)) * teeth) % 1
    // Up between 0.2 and 0.32 of a tooth's turn, down between 0.62 and 0.74.
    const out = Math.min(1, Math.max(0, (t - 0.2) / 0.12)) * Math.min(1, Math.max(0, 1 - (t - 0.62) / 0.12))
    return 0.128 + 0.016 * out
  }
  add(
    'Gear',
    'iron',
    prism(
      teeth * 8,
      tooth,
      [
        [0.006, 0],
        [0.006, 0.26],
        [-0.006, 0.3],
        [-0.006, 0.72],
        [0, 0.76],
        [0, 0.985],
        [0.003, 1],
        [0.037, 1],
        [0.04, 0.985],
        [0.04, 0.76],
        [0.046, 0.72],
        [0.046, 0.3],
        [0.034, 0.26],
        [0.034, 0],
      ].map(([y, s]) => [y!, s!] as const),
    ),
    { at: [0.425, AXLE, 0], ...ACROSS },
  )
}

/** The pawl, and the crank with its grip. */
function addCrank(add: Add): void {
  add('Gear', 'steel', bar(0.022, 0.03, 0.15, 0.004), {
    at: [0.445, AXLE - 0.07, -0.19],
    x: [1, 0, 0],
    y: [0, 0.66, 0.75],
    z: [0, -0.75, 0.66],
  })
  add('Crank', 'steel', bar(0.026, 0.046, 0.34, 0.006), {
    at: [0.512, AXLE - 0.03, 0],
    x: [1, 0, 0],
    y: [0, 0.94, 0.34],
    z: [0, -0.34, 0.94],
  })
  add(
    'Crank',
    'paint',
    turned(24, [
      [0, 0.14],
      [0.014, 0.14],
      [0.019, 0.13],
      [0.0205, 0.075],
      [0.018, 0.02],
      [0.015, 0.002],
      [0, 0],
    ]),
    { at: [0.524, AXLE + 0.26, 0.103], ...ACROSS },
  )
}

/**
 * A hand winch for mooring lines: a painted drum between flanges, on a cast frame with bolts, a gear, a crank and a
 * coil of rope. Meters, Y up, one texture tile. Vertex maps: `painted` (1 on painted parts), `grease` (1 near the
 * shaft, fading within 12 cm), `group` (bolts by the piece that they hold).
 * @param isLaid whether the rope is made of its three strands, each a part
 */
export function mooringWinch(isLaid = false): { mesh: Mesh; counts: DemoCounts } {
  const next = random(41)
  const parts: DemoPart[] = []
  const add: Add = (object, material, shape, place, group = 0) =>
    parts.push({
      object,
      material,
      shape,
      place,
      maps: {
        painted: () => (material === 'paint' ? 1 : 0),
        grease: p => Math.max(0, 1 - Math.hypot(p[1] - AXLE, p[2]) / 0.12),
        group: () => group,
      },
    })
  addDrum(add)
  addRope(add, isLaid)
  const count = addFrame(add, bolts(add, next))
  addGear(add)
  addCrank(add)
  const { mesh, patches } = assemble(parts)
  return {
    mesh,
    counts: { objects: 8, groups: 7 + 5, parts: parts.length, patches, tiles: 1, ofNote: { bolts: count } },
  }
}
