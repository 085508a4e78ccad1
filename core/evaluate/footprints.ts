import { triangleCross, type Mesh } from '../mesh/mesh'
import type { SurfacePoints } from '../mesh/sample'
import type { Sightline } from './rasterize'
import { widthOf } from './shifts'
import type { Widths } from './visible'

/** How large a pixel is where a camera sees the surface, and where that camera is. */
export interface PixelSize {
  /** In meters for each meter along the camera's axis, and beside that in meters: one of them is 0. */
  perDepth: number
  fixed: number
  /** In the world, with a last number of 1; or the direction to it, with a last number of 0. */
  eye: readonly [number, number, number, number]
}

/**
 * How large the pixels of a picture are.
 * @param step how many of them, in both directions, are one of the picture through which the sightline goes
 * @param number of the picture, where many with shifted pixels become one (see `widthOf`)
 */
export function pixelSizeOf(
  { clip, view, width }: Pick<Sightline, 'clip' | 'view' | 'width'>,
  step = 1,
  number = 0,
): PixelSize {
  // Matrices are column by column: rows of the view are the camera's axes in the world.
  const axis = (row: number): [number, number, number] => [view[row]!, view[row + 4]!, view[row + 8]!]
  const right = axis(0)
  const across = right.reduce((sum, x, k) => sum + x * clip[k * 4]!, 0)
  const size = (2 / (width * step * across)) * widthOf(number)
  const hasDepth = [3, 7, 11].some(k => clip[k] !== 0)
  if (!hasDepth) return { perDepth: 0, fixed: size, eye: [...axis(2), 0] }
  const eye = [0, 1, 2].map(k => [0, 1, 2].reduce((sum, row) => sum - axis(row)[k]! * view[12 + row]!, 0))
  return { perDepth: size, fixed: 0, eye: [eye[0]!, eye[1]!, eye[2]!, 1] }
}

/** The least cosine that counts: what is seen at a sharper angle is not blurred any further. */
export const SHARPEST = 0.1

/**
 * How wide the surface is that each of some pixels sees, in meters: the mean of its width along the slope, where it is
 * stretched, and across it.
 * @param depths how far away each point is along the camera's axis
 */
export function footprintsOf(
  { positions, normals, indices }: Pick<Mesh, 'positions' | 'normals' | 'indices'>,
  { count, triangle, u, v }: SurfacePoints,
  depths: Float32Array,
  { perDepth, fixed, eye }: PixelSize,
): Float32Array {
  const out = new Float32Array(count)
  for (let i = 0; i < count; i++) {
    const t = triangle[i]! * 3
    const [a, b, c] = [indices[t]! * 3, indices[t + 1]! * 3, indices[t + 2]! * 3]
    const [p, q] = [u[i]!, v[i]!]
    let along = 0
    let facing = 0
    let way = 0
    for (let k = 0; k < 3; k++) {
      const place = positions[a + k]! * (1 - p - q) + positions[b + k]! * p + positions[c + k]! * q
      const n = normals[a + k]! * (1 - p - q) + normals[b + k]! * p + normals[c + k]! * q
      const to = eye[k]! - eye[3] * place
      along += n * to
      facing += n * n
      way += to * to
    }
    const cosine = Math.abs(along) / (Math.sqrt(facing * way) || 1)
    out[i] = (perDepth * depths[i]! + fixed) / Math.sqrt(Math.max(SHARPEST, cosine))
  }
  return out
}

/**
 * Which of some points are seen from the back of their triangle: 1, else 0. Its corners alone tell, which run
 * counterclockwise seen from the front, as renderers have it: normals lean away on a rim before the surface does.
 */
export function seenFromBehind(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  { count, triangle }: Pick<SurfacePoints, 'count' | 'triangle'>,
  [x, y, z, nearby]: PixelSize['eye'],
): Uint8Array {
  const { positions: p, indices } = mesh
  const out = new Uint8Array(count)
  const cross: [number, number, number] = [0, 0, 0]
  for (let i = 0; i < count; i++) {
    const t = triangle[i]!
    triangleCross(mesh, t, cross)
    const at = indices[t * 3]! * 3
    const toEye =
      cross[0] * (x - nearby * p[at]!) + cross[1] * (y - nearby * p[at + 1]!) + cross[2] * (z - nearby * p[at + 2]!)
    out[i] = toEye < 0 ? 1 : 0
  }
  return out
}

/** How the surface lies to who looks at it. */
export interface Seer {
  widths: Widths
  /** See {@link seenFromBehind}. */
  behind: (points: SurfacePoints) => Uint8Array
}

/** Who looks at a mesh through a camera whose pixels have a size. */
export const seerOf = (mesh: Pick<Mesh, 'positions' | 'normals' | 'indices'>, pixel: PixelSize): Seer => ({
  widths: (points, depths) => footprintsOf(mesh, points, depths, pixel),
  behind: points => seenFromBehind(mesh, points, pixel.eye),
})
