import type { Kernels } from '../kernels/kernels'
import type { Box, Mesh } from '../mesh/mesh'
import { GROUND, SEEN_WORDS } from './visible'

/** From where a mesh is seen, and through which pixels. Matrices are 4 by 4, column by column. */
export interface Sightline {
  /** From the world to clip space, in which a picture goes from -1 to 1. */
  clip: readonly number[]
  /** Back from there. */
  world: readonly number[]
  /** From the world to the camera, which looks along its negative z axis. */
  view: readonly number[]
  /** Nothing nearer than this, in meters along the axis, is seen. */
  near: number
  width: number
  height: number
  /** Steps of a pixel into which corners are put, as graphics cards do; left out, they stay where they are. */
  snap?: number
  /** Height of a ground, where there is one, with its middle and how far it reaches. */
  ground?: { y: number; x: number; z: number; reach: number }
}

/**
 * Where the ground lies under a mesh, and how far it reaches from its middle: just below what stands on it, and so far
 * that no shadow runs off it.
 */
export function groundUnder({ min, max }: Box): { y: number; x: number; z: number; reach: number } {
  const diagonal = Math.hypot(...max.map((x, k) => x - min[k]!))
  return { y: min[1] - diagonal * 1e-4, x: (min[0] + max[0]) / 2, z: (min[2] + max[2]) / 2, reach: diagonal * 3 }
}

/** Rows of a picture, from below. */
export interface RowRange {
  first: number
  rows: number
}

type Triangles = Pick<Mesh, 'positions' | 'indices'>

/**
 * Lays a mesh where it is drawn from, so that the first picture of it need not wait for that.
 * @throws Error in one sentence where the mesh does not fit into memory
 */
export function layReady({ surface }: Kernels, { positions, indices }: Triangles): void {
  surface.begin(positions, indices)
}

/**
 * What is seen at the pixels of some rows: the surface pass on the processor.
 * @param hidden for each part whether it is left out
 * @param before what is seen in front: then what is seen behind it
 * @returns the words of `SEEN_WORDS`, row by row
 * @throws Error in one sentence where the mesh and the picture do not fit into memory
 */
export function rasterize(
  { surface }: Kernels,
  mesh: Triangles,
  partOfTriangle: ArrayLike<number>,
  sight: Sightline,
  range: RowRange,
  hidden?: Uint8Array,
  before?: Uint32Array,
): Uint32Array<ArrayBuffer> {
  const { width, height, near, ground } = sight
  const { first, rows } = range
  const pixels = width * rows
  const at = surface.begin(mesh.positions, mesh.indices)
  const seen = surface.take(pixels * SEEN_WORDS * 4)
  const front = before ? surface.take(before.byteLength) : 0
  if (before) surface.words(front, before.length).set(before)
  surface.words(seen, pixels * SEEN_WORDS).fill(0)
  const depths = drawn(surface, at, mesh, partOfTriangle, sight, range, hidden, seen, front)
  if (ground) {
    const world = surface.put(sight.world)
    const view = surface.put([2, 6, 10, 14].map(k => -sight.view[k]!))
    const { x, y, z, reach } = ground
    surface.timed(run =>
      run.ground(world, view, near, x, y, z, reach, width, height, first, rows, depths, seen, front, GROUND),
    )
  }
  return surface.words(seen, pixels * SEEN_WORDS).slice()
}

/**
 * How far away the nearest surface is at the pixels of some rows, in meters along the axis; 0 where there is none: the
 * last of the words that `rasterize` finds.
 * @param hidden for each part whether it is left out
 * @throws Error in one sentence where the mesh and the picture do not fit into memory
 */
export function depthsSeen(
  { surface }: Kernels,
  mesh: Triangles,
  partOfTriangle: ArrayLike<number>,
  sight: Sightline,
  range: RowRange,
  hidden?: Uint8Array,
): Float32Array<ArrayBuffer> {
  const pixels = sight.width * range.rows
  const at = surface.begin(mesh.positions, mesh.indices)
  const found = surface.take(pixels * 4)
  const depths = drawn(surface, at, mesh, partOfTriangle, sight, range, hidden, 0, 0)
  surface.timed(run => run.ways(found, depths, pixels))
  return surface.floats(found, pixels).slice()
}

/** Draws all triangles, but for those of parts that are left out. @returns the address of the depths */
function drawn(
  surface: Kernels['surface'],
  { positions, indices, vertices }: { positions: number; indices: number; vertices: number },
  mesh: Triangles,
  partOfTriangle: ArrayLike<number>,
  { clip, view, width, height, near, snap = 0 }: Sightline,
  { first, rows }: RowRange,
  hidden: Uint8Array | undefined,
  seen: number,
  front: number,
): number {
  const triangles = mesh.indices.length / 3
  const depths = surface.take(width * rows * 8)
  const skip = hidden ? surface.take(triangles) : 0
  if (hidden) {
    const marks = surface.bytes(skip, triangles)
    for (let t = 0; t < triangles; t++) marks[t] = hidden[partOfTriangle[t]!] ?? 0
  }
  const columns = [0, 4, 8, 12]
  const sight = surface.put([
    ...columns.flatMap(k => [clip[k]!, clip[k + 1]!]),
    ...columns.flatMap(k => [clip[k + 3]!, -view[k + 2]!]),
  ])
  surface.timed(run => {
    run.clear(depths, width * rows)
    run.project(positions, vertices, mesh.positions.length / 3, sight, width, height, snap)
    run.draw(indices, triangles, skip, vertices, width, first, rows, near, depths, seen, front)
  })
  return depths
}
