import { depthsSeen } from '../evaluate/rasterize'
import type { MeshTables } from '../evaluate/tables'
import type { Kernels } from '../kernels/kernels'
import type { Box } from '../mesh/mesh'
import { cross, dot, unit, type Vector } from '../mesh/vector'
import { clamp } from './shot'

/** Pixels along a side, as many as the stage's map has. */
const SIZE = 1024
/** Places on a disk that are looked at, on a spiral. */
const DISK = Array.from({ length: 8 }, (_, i) => {
  const radius = Math.sqrt((i + 0.5) / 8)
  return [Math.cos(i * 2.399963) * radius, Math.sin(i * 2.399963) * radius] as const
})

/**
 * How far the nearest surface is from a light without perspective, as on the stage: what is farther away is in its
 * shadow.
 */
export class ShadowMap {
  /** Distance from the light's plane in meters, from below; 0 where there is no surface. */
  private readonly ways: Float32Array
  private readonly axes: [Vector, Vector, Vector]
  private readonly offset: Vector
  /** Width of the map in meters. */
  private readonly extent: number
  private readonly slope: number

  /**
   * @param from where the light comes from, of length 1
   * @param radius half its opening, in radians
   */
  constructor(kernels: Kernels, { mesh, parts }: MeshTables, { min, max }: Box, from: Vector, radius: number) {
    const middle = min.map((x, k) => (x + max[k]!) / 2) as Vector
    const reach = Math.hypot(...max.map((x, k) => x - min[k]!)) / 2 || 1
    const back = unit(from)
    const right = unit(cross(Math.abs(back[1]) > 0.99 ? [0, 0, 1] : [0, 1, 0], back))
    this.axes = [right, cross(back, right), back]
    const eye = middle.map((x, k) => x + back[k]! * reach * 2) as Vector
    this.offset = this.axes.map(axis => -dot(axis, eye)) as Vector
    this.extent = reach * 2
    this.slope = Math.tan(radius)
    const column = (k: number, scales: readonly number[]): number[] => [
      ...this.axes.map((axis, i) => axis[k]! * scales[i]!),
      0,
    ]
    const matrix = (scales: readonly number[]): number[] => [
      ...[0, 1, 2].flatMap(k => column(k, scales)),
      ...this.offset.map((o, i) => o * scales[i]!),
      1,
    ]
    const clip = matrix([1 / reach, 1 / reach, 0])
    const sight = { clip, world: clip, view: matrix([1, 1, 1]), near: 0, width: SIZE, height: SIZE }
    this.ways = depthsSeen(kernels, mesh, parts.partOfTriangle, sight, { first: 0, rows: SIZE })
  }

  /** A place in the map, in shares of it, and in meters from the light. */
  private into(x: number, y: number, z: number): void {
    const { axes, offset, extent } = this
    const along = (k: number): number => axes[k]![0] * x + axes[k]![1] * y + axes[k]![2] * z + offset[k]!
    mapped.x = along(0) / extent + 0.5
    mapped.y = along(1) / extent + 0.5
    mapped.way = -along(2)
  }

  private wayAt(x: number, y: number): number {
    const column = Math.floor(clamp(x, 0, 0.9999) * SIZE)
    return this.ways[Math.floor(clamp(y, 0, 0.9999) * SIZE) * SIZE + column]!
  }

  /**
   * The share of the light that reaches a place: blockers are looked for first, and the shadow is as soft as they are
   * far away (Fernando, "Percentage-Closer Soft Shadows", 2005).
   * @param n which way the surface faces, of length 1
   * @param chance 0 to 1: how the places are turned that are looked at
   */
  reached(x: number, y: number, z: number, n: ArrayLike<number>, chance: number): number {
    const { extent, slope } = this
    const slack = (extent / SIZE) * 1.5
    this.into(x + n[0]! * slack, y + n[1]! * slack, z + n[2]! * slack)
    const { x: mx, y: my, way } = mapped
    if (mx <= 0 || my <= 0 || mx >= 1 || my >= 1) return 1
    const [cos, sin] = [Math.cos(chance * 2 * Math.PI), Math.sin(chance * 2 * Math.PI)]
    const blockerAt = (i: number, wide: number): number => {
      const [dx, dy] = DISK[i]!
      const found = this.wayAt(mx + (cos * dx - sin * dy) * wide, my + (sin * dx + cos * dy) * wide)
      return found > 0 && found < way - slack ? found : 0
    }
    const search = clamp(slope * 0.25, 2 / SIZE, 0.06)
    let [blockers, sum] = [0, 0]
    for (let i = 0; i < DISK.length; i++) {
      const found = blockerAt(i, search)
      if (found > 0) blockers++
      sum += found
    }
    if (!blockers) return 1
    const soft = clamp((slope * (way - sum / blockers)) / extent, 0.75 / SIZE, 0.08)
    let lit = 0
    for (let i = 0; i < DISK.length; i++) if (!blockerAt(i, soft)) lit++
    return lit / DISK.length
  }

  /** How far light has to go through the surface to get to a place, in meters. */
  depth(x: number, y: number, z: number): number {
    this.into(x, y, z)
    const found = this.wayAt(mapped.x, mapped.y)
    return found > 0 ? Math.max(0, mapped.way - found) : 0
  }
}
const mapped = { x: 0, y: 0, way: 0 }
