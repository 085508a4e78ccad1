import * as z from 'zod'
import { cross, dot, minus, scaled, unit, type Vector } from '../mesh/vector'
import type { Box } from '../mesh/mesh'
import { RIGS, tripleOf, type Rig, type RigName } from './rigs'

/**
 * Light from all around, as a picture by longitude and latitude: three numbers a texel, row by row from straight up.
 */
export interface Surroundings {
  width: number
  height: number
  data: Float32Array<ArrayBuffer>
}

/** The same from outside. */
export const surroundingsSchema = z
  .object({
    width: z.number().int().min(1),
    height: z.number().int().min(1),
    data: z.custom<Float32Array<ArrayBuffer>>(x => x instanceof Float32Array),
  })
  .refine(
    ({ width, height, data }) => data.length === width * height * 3,
    'a picture of light has three numbers a pixel',
  )

/** What a traced picture is lit by: a rig by its name, or a picture of surroundings. */
export const lightSchema = z.union([z.enum(Object.keys(RIGS) as [RigName]), surroundingsSchema])
export type TraceLight = z.infer<typeof lightSchema>
export const surroundingsOf = (light: TraceLight): Surroundings =>
  typeof light === 'string' ? rigSurroundings(light) : light

/** Longitude and latitude of a direction as shares of the picture, as three.js lays such pictures out. */
const place = (d: Vector): [number, number] => [
  Math.atan2(d[2], d[0]) / (2 * Math.PI) + 0.5,
  Math.acos(Math.min(1, Math.max(-1, d[1]))) / Math.PI,
]
/** The direction of a place of the picture, in shares of it. */
export function toward(u: number, v: number): Vector {
  const angle = (u - 0.5) * 2 * Math.PI
  const down = v * Math.PI
  return [Math.sin(down) * Math.cos(angle), Math.cos(down), Math.sin(down) * Math.sin(angle)]
}

/** The color of a rig's plate that is seen from the middle in a direction of length 1; none where there is none. */
function plateOf(rig: Rig): (x: number, y: number, z: number) => Vector | undefined {
  const plates = rig.panels.map(({ at, size, radiance }) => {
    const facing = unit(at as Vector)
    // The side that is seen, of a plate with some thickness.
    const center = minus(at as Vector, scaled(facing, size[2] / 2))
    const right = unit(cross([0, 1, 0], facing))
    const up = cross(facing, right)
    return { facing, right, up, away: dot(center, facing), size, color: tripleOf(radiance) }
  })
  return (x, y, z) => {
    let color: Vector | undefined
    let near = Infinity
    for (const { facing, right, up, away, size, color: own } of plates) {
      const along = away / (x * facing[0] + y * facing[1] + z * facing[2])
      if (!(along > 0 && along < near)) continue
      // A plate faces the middle: nothing of the way to its own center lies to its right or above.
      if (Math.abs(x * right[0] + y * right[1] + z * right[2]) * along > size[0] / 2) continue
      if (Math.abs(x * up[0] + y * up[1] + z * up[2]) * along > size[1] / 2) continue
      near = along
      color = own
    }
    return color
  }
}

/** What is seen of a rig from the middle in a direction of length 1: its plates, before its dome. */
export function radianceOf(rig: Rig): (toward: Vector) => Vector {
  const plate = plateOf(rig)
  return ([x, y, z]) => plate(x, y, z) ?? tripleOf(rig.dome(y))
}

/** One of the stage's rigs as such a picture. */
export function rigSurroundings(name: RigName, width = 512): Surroundings {
  const rig = RIGS[name]
  const plate = plateOf(rig)
  const height = width / 2
  const data = new Float32Array(width * height * 3)
  /** Directions for each texel, along a side. */
  const fine = 3
  const columns = Array.from({ length: width * fine }, (_, i) => toward((i + 0.5) / (width * fine), 0.5))
  for (let i = 0; i < height * fine; i++) {
    const [sine, y] = toward(0.5, (i + 0.5) / (height * fine))
    const dome = tripleOf(rig.dome(y))
    const row = Math.floor(i / fine) * width
    for (let j = 0; j < columns.length; j++) {
      const column = columns[j]!
      const color = plate(sine * column[0], y, sine * column[2]) ?? dome
      const at = (row + Math.floor(j / fine)) * 3
      for (let k = 0; k < 3; k++) data[at + k]! += color[k]! / fine ** 2
    }
  }
  return { width, height, data }
}

/** The same light everywhere. */
export const evenSurroundings = (radiance: number): Surroundings => ({
  width: 2,
  height: 1,
  data: new Float32Array(6).fill(radiance),
})

/**
 * A picture of surroundings turned about the vertical and made brighter, from which directions are drawn by how much
 * light comes from them.
 */
export class Sky {
  private readonly rows: Float64Array
  private readonly columns: Float64Array
  private readonly total: number
  private readonly sine: number
  private readonly cosine: number

  /** @param turn degrees, as the stage turns its light */
  constructor(
    private readonly picture: Surroundings,
    turn = 0,
    private readonly brightness = 1,
  ) {
    const { width, height, data } = picture
    this.rows = new Float64Array(height + 1)
    this.columns = new Float64Array(height * (width + 1))
    this.sine = Math.sin((turn * Math.PI) / 180)
    this.cosine = Math.cos((turn * Math.PI) / 180)
    for (let y = 0; y < height; y++) {
      const sine = Math.sin(((y + 0.5) / height) * Math.PI)
      const at = y * (width + 1)
      for (let x = 0; x < width; x++) {
        const i = (y * width + x) * 3
        this.columns[at + x + 1] =
          this.columns[at + x]! + (0.2126 * data[i]! + 0.7152 * data[i + 1]! + 0.0722 * data[i + 2]! + 1e-9) * sine
      }
      this.rows[y + 1] = this.rows[y]! + this.columns[at + width]!
    }
    this.total = this.rows[height]!
  }

  /** From the world into the picture, and back. */
  private inward([x, y, z]: Vector): Vector {
    return [x * this.cosine - z * this.sine, y, x * this.sine + z * this.cosine]
  }
  private outward([x, y, z]: Vector): Vector {
    return [x * this.cosine + z * this.sine, y, -x * this.sine + z * this.cosine]
  }

  private texel(d: Vector): number {
    const { width, height } = this.picture
    const [u, v] = place(d)
    return Math.min(height - 1, Math.floor(v * height)) * width + Math.min(width - 1, Math.floor(u * width))
  }
  /** Radiance from a direction (unit length, pointing away). */
  radiance(direction: Vector): Vector {
    const i = this.texel(this.inward(direction)) * 3
    const { data } = this.picture
    return [data[i]! * this.brightness, data[i + 1]! * this.brightness, data[i + 2]! * this.brightness]
  }
  /** How densely {@link sample} draws a direction, per steradian. */
  density(direction: Vector): number {
    const { width, height } = this.picture
    const i = this.texel(this.inward(direction))
    const at = Math.floor(i / width) * (width + 1) + (i % width)
    // Within a texel, latitudes are drawn evenly: the circle that a direction lies on counts, not the middle of its
    // row.
    return (
      (this.columns[at + 1]! - this.columns[at]!) /
      this.total /
      (((2 * Math.PI) / width) * (Math.PI / height) * Math.max(1e-6, Math.sqrt(Math.max(0, 1 - direction[1] ** 2))))
    )
  }
  sample(u: number, v: number): Vector {
    const { width, height } = this.picture
    const y = find(this.rows, 0, height, u * this.total)
    const at = y * (width + 1)
    const within = v * this.columns[at + width]!
    const x = find(this.columns, at, at + width, within) - at
    const low = this.columns[at + x]!
    const high = this.columns[at + x + 1]!
    const dx = (within - low) / (high - low || 1)
    const below = this.rows[y]!
    const dy = (u * this.total - below) / (this.rows[y + 1]! - below || 1)
    return this.outward(toward((x + dx) / width, (y + dy) / height))
  }
}

/** The place of a number in a growing column: the last entry that is not above it. */
function find(column: Float64Array, from: number, to: number, value: number): number {
  let low = from
  let high = to - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (column[middle]! <= value) low = middle
    else high = middle - 1
  }
  return low
}

/**
 * A glowing rectangle: its middle, two half sides at right angles, and its radiance on the side that their cross
 * product points to.
 */
export interface Plate {
  at: Vector
  right: Vector
  up: Vector
  radiance: Vector
}

/**
 * A square lamp over a mesh, to the left and in front, as large as half the mesh and turned toward its middle.
 * @param strength how bright it makes a surface that faces it, next to a sky of radiance 1
 */
export function plateFor({ min, max }: Box, strength: number): Plate {
  const middle = min.map((x, k) => (x + max[k]!) / 2) as Vector
  const reach = Math.hypot(...max.map((x, k) => x - min[k]!)) / 2
  const way = unit([-0.7, 0.8, 0.6])
  const distance = reach * 3
  const half = reach / 2
  const right = unit(cross([0, 1, 0], way))
  const up = cross(way, right)
  const radiance = (strength * Math.PI * distance ** 2) / (4 * half * half)
  const toward = (d: Vector): Vector => [d[0] * half, d[1] * half, d[2] * half]
  // Its cross product has to look at the mesh.
  return {
    at: middle.map((x, k) => x + way[k]! * distance) as Vector,
    right: toward(up),
    up: toward(right),
    radiance: [radiance, radiance, radiance],
  }
}
