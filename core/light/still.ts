import { decodeSrgb, encodeSrgb } from '../color/convert'
import { Gatherer } from '../evaluate/gather'
import { seerOf, pixelSizeOf } from '../evaluate/footprints'
import { Painter, type Painted } from '../evaluate/painter'
import { groundUnder, rasterize, type Sightline } from '../evaluate/rasterize'
import { RepeatedEvaluator } from '../evaluate/repeated'
import { shiftOf } from '../evaluate/shifts'
import { boxOf, type MeshTables } from '../evaluate/tables'
import { laneOf, lanesIn, LAYERS, picturesOf, withNormal } from '../evaluate/visible'
import type { Look } from '../graph/look'
import type { Kernels } from '../kernels/kernels'
import type { Box } from '../mesh/mesh'
import { cross, dot, minus, turnedAround, unit, type Vector } from '../mesh/vector'
import { lowerOn, reader, signature } from '../program/lower'
import type { RigName } from '../trace/rigs'
import { cameraFor } from '../trace/trace'
import { CONTACT_REACH, contactOf } from './contact'
import { keyOfRig } from './keyLight'
import { prefilteredRig } from './prefiltered'
import { reachedIn, shader, typicalDepth, type Lighting } from './shade'
import { ShadowMap } from './shadowMap'
import type { Lens, Shot } from './shot'

export interface StillSettings {
  width: number
  height: number
  rig: RigName
  /** Encoded for display, 0 to 1. */
  background: Vector
  /** The finished surface, where nothing is said, or one channel as it is, without light, as the stage shows it. */
  show?: StillView
  /** What of the finished surface is left out: all of it is there as on the stage. */
  without?: readonly StillPart[]
}
/** What light does besides falling on the surface. */
export const STILL_PARTS = ['ground', 'shadows', 'contact'] as const
export type StillPart = (typeof STILL_PARTS)[number]
/** What a picture can show. */
export const STILL_VIEWS = ['finished', 'baseColor', 'metalness', 'roughness', 'height', 'emission'] as const
export type StillView = (typeof STILL_VIEWS)[number]

/** Pictures with shifted pixels that make one: as many as make a smooth tile on the stage, shifted alike. */
const SAMPLES = 4
/**
 * A picture of a look on a mesh, without a graphics card, lit as on the stage: by a rig, with the shadow of its key
 * light, contact darkening, and a ground.
 * @returns RGBA bytes, row by row from the top
 */
export const still = (kernels: Kernels, tables: MeshTables, look: Look, settings: StillSettings): Uint8ClampedArray =>
  stills(kernels, tables, settings)(look)

/**
 * The same for many looks: what is seen is found once, and of looks that differ in numbers alone only what differs is
 * evaluated again.
 * @returns takes a look and, for a turntable, by how many degrees the mesh is turned about the vertical; camera and
 * light stay
 */
export function stills(
  kernels: Kernels,
  tables: MeshTables,
  settings: StillSettings,
): (look: Look, turn?: number) => Uint8ClampedArray {
  let last: (ReturnType<typeof prepared> & { shape: string }) | undefined
  let view: View | undefined
  return (look, turn) => {
    const shape = signature(look)
    if (last?.shape !== shape) last = { ...prepared(kernels, tables, look), shape }
    const seen = view && view.turn === turn ? view : new View(kernels, tables, settings, turn)
    view = seen
    const { evaluator, pictures, lanes, sets, bends } = last
    evaluator.refresh(reader(look))
    const opacity = sets.has('opacity') ? laneOf(pictures, 'opacity') : undefined
    const shots = seen.painters(opacity !== undefined).map((painter, sample): Shot => {
      const work = painter.paint(evaluator, pictures, lanes, opacity)
      let step = work.next()
      while (!step.done) step = work.next()
      return { ...seen.camera(sample), painted: step.value, bends }
    })
    return develop(shots, settings, shot => seen.lighting(shot, sets.has('height'), bends || opacity !== undefined))
  }
}

/** A mesh as it is seen and lit, whatever the look. */
class View {
  private readonly box: Box
  private readonly typical: number
  private readonly line: Sightline
  private readonly lens: Lens
  private readonly sets: Partial<Record<'front' | 'deep', Painter[]>> = {}
  private readonly fallen = new Map<number, Pick<Lighting, 'shadow' | 'open'>>()
  private map?: ShadowMap

  /** @param turn of the mesh about the vertical, in degrees; camera and light stay */
  constructor(
    private readonly kernels: Kernels,
    private readonly tables: MeshTables,
    private readonly settings: StillSettings,
    readonly turn?: number,
  ) {
    const { parts } = tables
    this.box = boxOf(tables)
    const sizes = parts.parts.map(p => Math.hypot(...p.size)).sort((a, b) => a - b)
    this.typical = typicalDepth(sizes)
    const { line, lens } = sightOf(this.box, settings.width, settings.height, turn)
    this.lens = lens
    this.line = settings.without?.includes('ground') ? line : { ...line, ground: groundUnder(this.box) }
  }

  /** A painter for each sample. @param deep whether what is seen may let through what is behind it */
  painters(deep: boolean): Painter[] {
    return (this.sets[deep ? 'deep' : 'front'] ??= this.seen(deep))
  }
  private seen(deep: boolean): Painter[] {
    const { mesh, parts } = this.tables
    const { width, height } = this.settings
    const rows = { first: 0, rows: height }
    return Array.from({ length: SAMPLES }, (_, sample) => {
      const line = seenThrough(this.line, this.lens, this.camera(sample).shift)
      const layers = [rasterize(this.kernels, mesh, parts.partOfTriangle, line, rows)]
      while (deep && layers.length < LAYERS)
        layers.push(rasterize(this.kernels, mesh, parts.partOfTriangle, line, rows, undefined, layers.at(-1)))
      const pixel = pixelSizeOf(line, 1, sample)
      return new Painter({ width, first: 0, layers, sample }, parts.partOfTriangle, seerOf(mesh, pixel))
    })
  }

  /** How a numbered sample is seen. */
  camera(sample: number): Pick<Shot, 'width' | 'height' | 'lens' | 'sample' | 'shift'> {
    const { width, height } = this.settings
    const [dx, dy] = shiftOf(sample)
    return { width, height, lens: this.lens, sample, shift: [(-2 * dx) / width, (2 * dy) / height] }
  }

  /** What falls on a shot. @param changes whether the look says what is seen, or which way it faces */
  lighting(shot: Shot, tilts: boolean, changes: boolean): Lighting {
    const { settings, turn = 0, typical } = this
    const { rig, background } = settings
    const key = keyOfRig(rig)
    const from = turnedAround(key.from, -turn)
    const known = changes ? undefined : this.fallen.get(shot.sample)
    const fallen = known ?? this.fallOn(shot, from, key.radius)
    if (!changes) this.fallen.set(shot.sample, fallen)
    return {
      environment: prefilteredRig(rig),
      key: { ...key, from },
      turn,
      background: background.map(decodeSrgb) as Vector,
      tilts,
      typical,
      ...fallen,
    }
  }
  private fallOn(shot: Shot, from: Vector, radius: number): Pick<Lighting, 'shadow' | 'open'> {
    const { without = [] } = this.settings
    const reach = Math.hypot(...this.box.max.map((x, k) => x - this.box.min[k]!)) / 2
    const map = without.includes('shadows')
      ? undefined
      : (this.map ??= new ShadowMap(this.kernels, this.tables, this.box, from, radius))
    return {
      ...(map && { shadow: { map, reached: reachedIn(shot, map) } }),
      ...(!without.includes('contact') && { open: contactOf(shot, reach * CONTACT_REACH) }),
    }
  }
}

/** A camera whose picture is shifted by shares of its half width and height, with the way back from there. */
function seenThrough(line: Sightline, { eye, right, up, back, wide, tall }: Lens, shift: [number, number]): Sightline {
  const [x, y] = shift
  const clip = line.clip.map((value, i) => {
    const w = line.clip[i - (i % 4) + 3]!
    if (i % 4 === 0) return value + x * w
    return i % 4 === 1 ? value + y * w : value
  })
  const { near } = line
  const far = near * FAR
  const [a, b] = [-(far + near) / (far - near), (-2 * far * near) / (far - near)]
  const inCamera = [
    [wide, 0, 0, 0],
    [0, tall, 0, 0],
    [0, 0, 0, 1 / b],
    [-wide * x, -tall * y, -1, a / b],
  ] as const
  const world = inCamera.flatMap(([cx, cy, cz, cw]) => [
    ...eye.map((e, k) => right[k]! * cx + up[k]! * cy + back[k]! * cz + e * cw),
    cw,
  ])
  return { ...line, clip, world }
}

/** A box about the same middle that holds another however that is turned about the vertical. */
function roundBox({ min, max }: Box): Box {
  const radius = Math.hypot(max[0] - min[0], max[2] - min[2]) / 2
  const middle = min.map((x, k) => (x + max[k]!) / 2) as Vector
  return {
    min: [middle[0] - radius, min[1], middle[2] - radius],
    max: [middle[0] + radius, max[1], middle[2] + radius],
  }
}

function prepared(kernels: Kernels, tables: MeshTables, look: Look) {
  const lowered = lowerOn(look, tables.mesh)
  const { program, normal } = withNormal(lowered)
  const pictures = picturesOf(program)
  const lanes = lanesIn(pictures, program, normal)
  const roots = lanes.filter(ref => ref !== undefined)
  const gatherer = new Gatherer(kernels, program, tables)
  const [sets, bends] = [program.sets, lowered.normals !== undefined]
  return { pictures, lanes, sets, bends, evaluator: new RepeatedEvaluator(kernels, program, roots, tables, gatherer) }
}

/** How much farther away is what is seen last than what is seen first. */
const FAR = 10_000

/**
 * A camera that has a whole box in view, as matrices and by its axes. A turn of the mesh is one of the camera,
 * backward.
 */
function sightOf(box: Box, width: number, height: number, turn?: number): { line: Sightline; lens: Lens } {
  const aspect = width / height
  const { from, to, angle } = cameraFor(turn === undefined ? box : roundBox(box), aspect)
  const away = turnedAround(minus(from, to), -(turn ?? 0))
  const eye = to.map((x, k) => x + away[k]!) as Vector
  const back = unit(minus(eye, to))
  const distance = Math.hypot(...minus(eye, to))
  const right = unit(cross([0, 1, 0], back))
  const up = cross(back, right)
  const tall = Math.tan((angle * Math.PI) / 360)
  const lens: Lens = { eye, right, up, back, wide: tall * aspect, tall }
  const rows = [right, up, back]
  const view = [0, 1, 2].flatMap(column => [...rows.map(r => r[column]!), 0])
  view.push(...rows.map(r => -dot(r, eye)), 1)
  const near = distance / 500
  const far = near * FAR
  const [a, b] = [-(far + near) / (far - near), (-2 * far * near) / (far - near)]
  const clip = [0, 1, 2, 3].flatMap(column => {
    const [x, y, z, w] = view.slice(column * 4, column * 4 + 4) as [number, number, number, number]
    return [x / lens.wide, y / lens.tall, a * z + b * w, -z]
  })
  return { line: { clip, world: clip, view, near, width, height }, lens }
}

/** Shots as one picture. What they show is averaged as it is displayed, as on the stage. */
function develop(
  shots: readonly Shot[],
  { width, height, background, show = 'finished' }: StillSettings,
  lightingOf: (shot: Shot) => Lighting,
): Uint8ClampedArray {
  const sums = new Float32Array(width * height * 3)
  for (const shot of shots) {
    const displayed = show === 'finished' ? shader(shot, lightingOf(shot)) : channelOf(shot, show, background)
    // Rows of what is seen go up, those of the picture down.
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const here = displayed((height - 1 - y) * width + x)
        for (let k = 0; k < 3; k++) sums[(y * width + x) * 3 + k]! += here[k]! / shots.length
      }
  }
  const out = new Uint8ClampedArray(width * height * 4).fill(255)
  sums.forEach((v, i) => {
    out[i + Math.floor(i / 3)] = v * 255
  })
  return out
}

/** A channel by itself, without light, at a pixel of a shot. */
const channelOf =
  ({ painted }: Shot, show: Exclude<StillView, 'finished'>, background: Vector) =>
  (pixel: number): Vector =>
    painted.relief![pixel * 4 + 3]! > 0 ? shownAlone(painted, pixel, show) : background

/**
 * A channel by itself: light is encoded for display, a number is a gray; height is gray at 0, and 1 mm up is three
 * quarters.
 */
function shownAlone(
  { color, facing, relief, glow }: Partial<Painted>,
  at: number,
  channel: Exclude<StillView, 'finished'>,
): Vector {
  const gray = (v: number): Vector => [v, v, v]
  const light = (of: Float32Array | undefined): Vector =>
    [0, 1, 2].map(k => encodeSrgb(Math.min(1, Math.max(0, of?.[at * 4 + k] ?? 0)))) as Vector
  switch (channel) {
    case 'baseColor':
      return light(color)
    case 'emission':
      return light(glow)
    case 'metalness':
      return gray(color![at * 4 + 3]!)
    case 'roughness':
      return gray(facing![at * 4 + 3]!)
    case 'height': {
      const height = relief![at * 4]!
      return gray(0.5 + (0.5 * height) / (1 + Math.abs(height)))
    }
  }
}
