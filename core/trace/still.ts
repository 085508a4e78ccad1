import { encodeSrgb } from '../color/convert'
import type { Look } from '../graph/look'
import type { Kernels } from '../kernels/kernels'
import { boundsOf, type Box } from '../mesh/mesh'
import { cross, dot, minus, unit, type Vector } from '../mesh/vector'
import { lower, reader, signature } from '../program/lower'
import { Gatherer } from '../evaluate/gather'
import { Painter, type Painted } from '../evaluate/painter'
import { rasterize, type Sightline } from '../evaluate/rasterize'
import { shiftOf } from '../evaluate/shifts'
import { RepeatedEvaluator } from '../evaluate/repeated'
import type { MeshTables } from '../evaluate/tables'
import { lanesIn, picturesOf, withNormal } from '../evaluate/visible'
import { lampOf, RIGS, tripleOf, type Panel, type Rig, type RigName } from './rigs'
import { cameraFor, neutral } from './trace'

export interface StillSettings {
  width: number
  height: number
  rig: RigName
  /** Encoded for display, 0 to 1. */
  background: Vector
  /** The finished surface, where nothing is said, or one channel as it is, without light, as the stage shows it. */
  show?: StillView
}
/** What a picture can show. */
export const STILL_VIEWS = ['finished', 'baseColor', 'metalness', 'roughness', 'height', 'emission'] as const
export type StillView = (typeof STILL_VIEWS)[number]

/** Pictures with shifted pixels that make one: as many as make a smooth tile on the stage, shifted alike. */
const SAMPLES = 4
/**
 * A picture of a look on a mesh, without a graphics card. It is lit by a rig in closed form, without shadows: diffuse light by the
 * cosines of lamps and dome, reflections by lobes as wide as the surface is rough.
 * @returns RGBA bytes, row by row from the top
 */
export const still = (kernels: Kernels, tables: MeshTables, look: Look, settings: StillSettings): Uint8ClampedArray =>
  stills(kernels, tables, settings)(look)

/**
 * The same for many looks: what is seen is found once, and of looks that differ in numbers alone only what differs is
 * evaluated again.
 * @returns takes a look and, for a turntable, by how many degrees the mesh is turned about the vertical; camera and light stay
 */
export function stills(
  kernels: Kernels,
  tables: MeshTables,
  settings: StillSettings,
): (look: Look, turn?: number) => Uint8ClampedArray {
  const box = boundsOf(tables.mesh.positions, tables.mesh.indices)
  let last: (ReturnType<typeof prepared> & { shape: string }) | undefined
  let view: { turn?: number; painters: Painter[]; back: Vector } | undefined
  return (look, turn) => {
    const shape = signature(look)
    if (last?.shape !== shape) last = { ...prepared(kernels, tables, look), shape }
    if (!view || view.turn !== turn) view = { turn, ...viewOf(tables, box, settings, turn) }
    const { evaluator, pictures, lanes } = last
    evaluator.refresh(reader(look))
    const painted = view.painters.map(painter => {
      const work = painter.paint(evaluator, pictures, lanes)
      let step = work.next()
      while (!step.done) step = work.next()
      return step.value
    })
    return develop(painted, view.back, settings, turn ?? 0)
  }
}

/** What is seen of the mesh. */
function viewOf(
  { mesh, parts: { partOfTriangle } }: MeshTables,
  box: Box,
  settings: StillSettings,
  turn?: number,
): { painters: Painter[]; back: Vector } {
  const { width, height } = settings
  const { line, back } = sightOf(box, width, height, turn)
  const painters = Array.from({ length: SAMPLES }, (_, sample) => {
    const front = rasterize(mesh, partOfTriangle, shifted(line, sample), { first: 0, rows: height })
    return new Painter({ width, first: 0, layers: [front], sample }, partOfTriangle)
  })
  return { painters, back }
}

/** A camera whose pixels are shifted as those of a numbered sample are. */
function shifted(line: Sightline, sample: number): Sightline {
  const [dx, dy] = shiftOf(sample)
  const [x, y] = [(-2 * dx) / line.width, (2 * dy) / line.height]
  const clip = line.clip.map((value, i) => {
    const w = line.clip[i - (i % 4) + 3]!
    if (i % 4 === 0) return value + x * w
    return i % 4 === 1 ? value + y * w : value
  })
  return { ...line, clip, world: clip }
}

/** A vector, turned about the vertical. */
function turned([x, y, z]: Vector, degrees: number): Vector {
  const [sin, cos] = [Math.sin((degrees * Math.PI) / 180), Math.cos((degrees * Math.PI) / 180)]
  return [x * cos + z * sin, y, z * cos - x * sin]
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
  const { program, normal } = withNormal(lower(look, tables.mesh.maps))
  const pictures = picturesOf(program.sets)
  const lanes = lanesIn(pictures, program, normal)
  const roots = lanes.filter(ref => ref !== undefined)
  const gatherer = new Gatherer(kernels, program, tables)
  return { pictures, lanes, evaluator: new RepeatedEvaluator(kernels, program, roots, tables, gatherer) }
}

/** A camera that has a whole box in view, as matrices, and the way back to it. A turn of the mesh is one of the camera, backward. */
function sightOf(box: Box, width: number, height: number, turn?: number): { line: Sightline; back: Vector } {
  const aspect = width / height
  const { from, to, angle } = cameraFor(turn === undefined ? box : roundBox(box), aspect)
  const away = turned(minus(from, to), -(turn ?? 0))
  const eye = to.map((x, k) => x + away[k]!) as Vector
  const back = unit(minus(eye, to))
  const distance = Math.hypot(...minus(eye, to))
  const right = unit(cross([0, 1, 0], back))
  const rows: Vector[] = [right, cross(back, right), back]
  const view = [0, 1, 2]
    .flatMap(column => [...rows.map(r => r[column]!), 0])
    .concat(
      rows.map(r => -dot(r, eye)),
      1,
    )
  const near = distance / 500
  const scale = 1 / Math.tan((angle * Math.PI) / 360)
  const far = distance * 20
  const project = [
    scale / aspect,
    0,
    0,
    0,
    0,
    scale,
    0,
    0,
    0,
    0,
    -(far + near) / (far - near),
    -1,
    0,
    0,
    (-2 * far * near) / (far - near),
    0,
  ]
  const clip = Array.from({ length: 16 }, (_, i) =>
    [0, 1, 2, 3].reduce((sum, k) => sum + project[k * 4 + (i % 4)]! * view[(i >> 2) * 4 + k]!, 0),
  )
  return { line: { clip, world: clip, view, near, width, height }, back }
}

/** Painted samples as a picture. What they show is averaged as it is displayed, as on the stage. */
function develop(
  samples: readonly Partial<Painted>[],
  back: Vector,
  { width, height, rig, background, show = 'finished' }: StillSettings,
  turn: number,
): Uint8ClampedArray {
  const light = lightOf(RIGS[rig])
  const sums = new Float32Array(width * height * 3)
  for (const painted of samples) {
    // Rows of what is seen go up, those of the picture down.
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const at = (height - 1 - y) * width + x
        const seen = painted.relief![at * 4 + 3]! > 0
        const here = seen ? displayed(painted, at) : background
        for (let k = 0; k < 3; k++) sums[(y * width + x) * 3 + k]! += here[k]! / samples.length
      }
  }
  const out = new Uint8ClampedArray(width * height * 4).fill(255)
  sums.forEach((v, i) => {
    out[i + Math.floor(i / 3)] = v * 255
  })
  return out

  /** What a sample shows at a place, encoded for display. */
  function displayed(painted: Partial<Painted>, at: number): Vector {
    const encoded = (v: number): number => encodeSrgb(Math.min(1, Math.max(0, v)))
    if (show === 'finished') return shade(painted, at).map(encoded) as Vector
    return shownAlone(painted, at, show)
  }

  function shade({ color, facing, glow }: Partial<Painted>, at: number): Vector {
    const [r, g, b, metalness] = [0, 1, 2, 3].map(k => color![at * 4 + k]!) as [number, number, number, number]
    const roughness = Math.min(1, Math.max(0.05, facing![at * 4 + 3]!))
    let n = unit([facing![at * 4]!, facing![at * 4 + 1]!, facing![at * 4 + 2]!])
    if (dot(n, back) < 0) n = n.map(v => -v) as Vector
    const cos = Math.max(0, dot(n, back))
    const mirrored = n.map((v, k) => 2 * cos * v - back[k]!) as Vector
    const falling = light.falling(turned(n, turn))
    const mirror = light.seen(turned(mirrored, turn), roughness)
    const base = [r, g, b]
    const rise = (1 - cos) ** 5 * (1 - roughness) ** 2
    const shaded = [0, 1, 2].map(k => {
      const straight = 0.04 * (1 - metalness) + base[k]! * metalness
      const reflects = straight + (1 - straight) * rise
      return (
        ((base[k]! * (1 - metalness) * falling[k]!) / Math.PI) * (1 - reflects) +
        reflects * mirror[k]! +
        (glow?.[at * 4 + k] ?? 0)
      )
    }) as Vector
    neutral(shaded)
    return shaded
  }
}

/** A channel by itself: light is encoded for display, a number is a gray; height is gray at 0, and 1 mm up is three quarters. */
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

/** A rig in closed form: what falls on a surface, and what is seen of it in a mirror that is more or less rough. */
function lightOf({ dome, panels }: Rig): { falling(n: Vector): Vector; seen(r: Vector, roughness: number): Vector } {
  const lamps = panels.map(p => lampOf(p as Panel))
  // Half of the dome is above any surface; what is above counts by how the surface leans.
  const above = tripleOf(dome(0.6))
  const below = tripleOf(dome(-0.6))
  return {
    falling(n) {
      const up = (1 + n[1]) / 2
      return [0, 1, 2].map(
        k =>
          Math.PI * (below[k]! + (above[k]! - below[k]!) * up) +
          lamps.reduce((s, l) => s + l.radiance[k]! * l.solidAngle * Math.max(0, dot(n, l.from)), 0),
      ) as Vector
    },
    seen(r, roughness) {
      const around = tripleOf(dome(r[1] * (1 - roughness * roughness)))
      return [0, 1, 2].map(
        k =>
          around[k]! +
          lamps.reduce((s, l) => {
            const wide = l.solidAngle + 2 * Math.PI * roughness ** 4
            const apart = Math.acos(Math.min(1, Math.max(-1, dot(r, l.from))))
            return s + ((l.radiance[k]! * l.solidAngle) / wide) * Math.exp((-apart * apart * Math.PI) / wide)
          }, 0),
      ) as Vector
    },
  }
}
