import { distanceFor, firstSide } from '../mesh/framing'
import type { Box } from '../mesh/mesh'
import { cross, dot, unit } from '../mesh/vector'
import { Bsdf, type Direction } from './bsdf'
import type { Plate, Sky } from './light'
import type { Hit, TraceScene } from './scene'

/** From where a scene is seen. `angle` is the vertical opening in degrees. */
export interface Camera {
  from: Direction
  to: Direction
  angle: number
}
export interface TraceSettings {
  width: number
  height: number
  camera: Camera
  sky: Sky
  plate?: Plate
  bounces: number
}
export const TRACE_DEFAULTS = { width: 480, height: 360, bounces: 6 }

/** A camera that has all of a box in view, as the stage frames a mesh. */
export function cameraFor(box: Box, aspect: number, angle = 32): Camera {
  const to = box.min.map((x, k) => (x + box.max[k]!) / 2) as Direction
  const side = firstSide(box)
  const distance = distanceFor(box, side, angle, aspect)
  return { from: to.map((m, k) => m + side[k]! * distance) as Direction, to, angle }
}

/** Numbers of 0 to 1 for one path, always the same for the same pixel and sample: PCG (O'Neill 2014). */
class Chance {
  private state: number
  constructor(seed: number) {
    this.state = Math.imul(seed ^ 0x9e3779b9, 0x85ebca6b) >>> 0
  }
  next(): number {
    this.state = (Math.imul(this.state, 747796405) + 2891336453) >>> 0
    const word = Math.imul((this.state >>> ((this.state >>> 28) + 4)) ^ this.state, 277803737)
    return ((word >>> 22) ^ word) >>> 0
  }
  unit(): number {
    return this.next() / 4294967296
  }
}

/** Traces paths through one scene. Not to be shared between threads. */
export class Tracer {
  private readonly lift: number
  private readonly forward: Direction
  private readonly right: Direction
  private readonly up: Direction

  constructor(
    private readonly scene: TraceScene,
    private readonly settings: TraceSettings,
  ) {
    const {
      camera: { from, to },
    } = settings
    const { min, max } = scene.bounds
    this.lift = 2e-5 * Math.hypot(...max.map((x, k) => x - min[k]!))
    this.forward = unit(to.map((x, k) => x - from[k]!) as Direction)
    this.right = unit(cross(this.forward, Math.abs(this.forward[1]) > 0.999 ? [0, 0, -1] : [0, 1, 0]))
    this.up = cross(this.right, this.forward)
  }

  private meet(from: Direction, along: Direction): Hit | null {
    const triangle = this.scene.tree.first(...from, ...along, Infinity)
    return triangle < 0 ? null : this.endAt(triangle, along)
  }

  /** Where the last ray ended. */
  private endAt(triangle: number, along: Direction): Hit {
    const [x, y, z] = this.scene.tree.place as unknown as Direction
    return this.scene.at(triangle, [x, y, z], along)
  }

  /**
   * Share of light that gets through from a point along a direction, up to a distance: surfaces that are not solid let
   * some pass.
   */
  private passes(from: Direction, along: Direction, far: number): number {
    let at = from
    let left = 1
    let gone = 0
    for (let i = 0; i < 8 && left > 0; i++) {
      const triangle = this.scene.tree.first(...at, ...along, far - gone)
      if (triangle < 0) return left
      const way = this.scene.tree.distance
      left *= 1 - this.endAt(triangle, along).opacity
      gone += way + this.lift
      at = from.map((x, k) => x + along[k]! * gone) as Direction
    }
    return 0
  }

  /** Radiance that arrives along one path through a pixel. */
  path(x: number, y: number, chance: Chance): Direction {
    const { width, height, camera, sky, plate, bounces } = this.settings
    const tall = Math.tan((camera.angle * Math.PI) / 360)
    const px = ((((x + chance.unit()) / width) * 2 - 1) * tall * width) / height
    const py = (1 - ((y + chance.unit()) / height) * 2) * tall
    let at = camera.from
    let along = unit([0, 1, 2].map(k => this.forward[k]! + this.right[k]! * px + this.up[k]! * py) as Direction)
    let density = 0
    const light: Direction = [0, 0, 0]
    const left: Direction = [1, 1, 1]
    for (let bounce = 0, passed = 0; bounce <= bounces; bounce++) {
      const hit = this.meet(at, along)
      if (!hit) {
        // By chance it was found that could have been looked for, too: the two are weighed against one another.
        const found = sky.radiance(along)
        const share = density ? density / (density + sky.density(along)) : 1
        for (let k = 0; k < 3; k++) light[k]! += left[k]! * found[k]! * share
        break
      }
      if (hit.opacity < 1 && chance.unit() >= hit.opacity) {
        at = hit.point.map((p, k) => p + along[k]! * this.lift) as Direction
        if (++passed < 32) bounce--
        continue
      }
      for (let k = 0; k < 3; k++) light[k]! += left[k]! * hit.emission[k]!
      const { normal, tangent, side, geometric } = hit
      const inside = (d: Direction): Direction => [dot(d, tangent), dot(d, side), dot(d, normal)]
      const wo = inside([-along[0], -along[1], -along[2]])
      // A bent normal may look away from the eye; just so far that it does not.
      if (wo[2] < 1e-3) wo[2] = 1e-3
      const bsdf = new Bsdf(hit, wo)
      const from = hit.point.map((p, k) => p + geometric[k]! * this.lift) as Direction
      const add = (toward: Direction, radiance: Direction, drawn: number, far: number) => {
        if (dot(toward, geometric) <= 0) return
        const { value, density: other } = bsdf.evaluate(inside(toward))
        const share = drawn / (drawn + other)
        const through = value[0] + value[1] + value[2] > 0 ? this.passes(from, toward, far) : 0
        if (through > 0)
          for (let k = 0; k < 3; k++) light[k]! += ((left[k]! * value[k]! * radiance[k]! * share) / drawn) * through
      }
      const toward = sky.sample(chance.unit(), chance.unit())
      const drawn = sky.density(toward)
      if (drawn > 0) add(toward, sky.radiance(toward), drawn, Infinity)
      if (plate) {
        const s = chance.unit() * 2 - 1
        const t = chance.unit() * 2 - 1
        const way = plate.at.map((p, k) => p + plate.right[k]! * s + plate.up[k]! * t - from[k]!) as Direction
        const far = Math.hypot(...way)
        const d = unit(way)
        const n = cross(plate.right, plate.up)
        const size = Math.hypot(...n)
        const facing = -dot(d, n) / size
        // A path never meets the plate by chance, so what is looked for counts in full.
        if (facing > 0 && dot(d, geometric) > 0) {
          const { value } = bsdf.evaluate(inside(d))
          const through = this.passes(from, d, far - this.lift)
          for (let k = 0; k < 3; k++)
            light[k]! += ((left[k]! * value[k]! * plate.radiance[k]! * facing * 4 * size) / (far * far)) * through
        }
      }
      const next = bsdf.sample(chance.unit(), chance.unit(), chance.unit())
      if (!next) break
      const { value, density: drawnNext } = bsdf.evaluate(next)
      if (!(drawnNext > 0)) break
      along = unit([0, 1, 2].map(k => tangent[k]! * next[0] + side[k]! * next[1] + normal[k]! * next[2]) as Direction)
      if (dot(along, geometric) <= 0) break
      for (let k = 0; k < 3; k++) left[k]! *= value[k]! / drawnNext
      // Paths that carry little end by chance; those that go on carry more for it.
      const carries = Math.min(1, Math.max(...left))
      if (bounce > 2) {
        if (chance.unit() >= carries) break
        for (let k = 0; k < 3; k++) left[k]! /= carries
      }
      at = from
      density = drawnNext
    }
    return light
  }

  /** Adds one path for each pixel of some rows to a picture of sums, three numbers a pixel. */
  add(sums: Float32Array, sample: number, from = 0, to = this.settings.height): void {
    const { width } = this.settings
    for (let y = from; y < to; y++) {
      for (let x = 0; x < width; x++) {
        const light = this.path(
          x,
          y,
          new Chance(Math.imul(y * width + x + 1, 0x9e3779b1) ^ Math.imul(sample + 1, 0x85ebca77)),
        )
        for (let k = 0; k < 3; k++) sums[(y * width + x) * 3 + k]! += light[k]!
      }
    }
  }
}

/** Tone mapping as the stage does it (Khronos PBR Neutral), on linear light, in place. */
export function neutral(color: Direction): void {
  const low = Math.min(...color)
  const shift = low < 0.08 ? low - 6.25 * low * low : 0.04
  for (let k = 0; k < 3; k++) color[k]! -= shift
  const peak = Math.max(...color)
  const start = 0.8 - 0.04
  if (peak < start) return
  const d = 1 - start
  const squeezed = 1 - (d * d) / (peak + d - start)
  const g = 1 - 1 / (0.15 * (peak - squeezed) + 1)
  for (let k = 0; k < 3; k++) color[k] = ((color[k]! * squeezed) / peak) * (1 - g) + squeezed * g
}
