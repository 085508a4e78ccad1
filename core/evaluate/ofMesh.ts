import type { Mesh } from '../mesh/mesh'
import { pixelSizeOf } from './footprints'
import type { Sightline } from './rasterize'
import { floatsIn, GROUND, GROUND_PART, SEEN_WORDS } from './visible'

/** What is told of the mesh itself at each point that is seen, beside its part. */
export type OfMesh =
  | { kind: 'part' }
  | { kind: 'patch' }
  | { kind: 'uv' }
  | { kind: 'values'; /** One per vertex. */ values: Float32Array }

/** From where the mesh is seen, and where the plain light comes from in which its parts are shown. */
export interface PlainView {
  /** As in `PixelSize`. */
  eye: readonly [number, number, number, number]
  /** A unit vector in the world. */
  light: readonly [number, number, number]
}

/** Where the plain light comes from, as the camera has it: over its left shoulder. */
const SHOULDER = [-0.3, 0.5, 0.85] as const

export function plainView(line: Pick<Sightline, 'clip' | 'view' | 'width'>): PlainView {
  const { view } = line
  const length = Math.hypot(...SHOULDER)
  // Rows of the view are the camera's axes in the world.
  const light = [0, 1, 2].map(k => SHOULDER.reduce((sum, x, row) => sum + (x / length) * view[k * 4 + row]!, 0))
  return { eye: pixelSizeOf(line).eye, light: [light[0]!, light[1]!, light[2]!] }
}

/**
 * Tells of the mesh at each pixel of some rows: four numbers each, where a look has its relief. The first is the value,
 * the patch or u; the second how far away it is, in meters; the third v, or how much plain light falls on it, 0 to 1,
 * from whatever side it is seen; the last as in the relief of a look.
 * @param seen the words of the surface pass, row by row
 */
export function paintOfMesh(
  seen: Uint32Array,
  mesh: Pick<Mesh, 'positions' | 'normals' | 'uvs' | 'indices'>,
  { partOfTriangle, patchOfTriangle }: { partOfTriangle: ArrayLike<number>; patchOfTriangle: ArrayLike<number> },
  what: OfMesh,
  view: PlainView,
): Float32Array {
  const floats = floatsIn(seen)
  const out = new Float32Array(seen.length)
  const weights = new Float64Array(3)
  const corners = new Uint32Array(3)
  const between = (list: ArrayLike<number>, size: number, at: number): number =>
    weights[0]! * list[corners[0]! * size + at]! +
    weights[1]! * list[corners[1]! * size + at]! +
    weights[2]! * list[corners[2]! * size + at]!
  for (let at = 0; at < seen.length; at += SEEN_WORDS) {
    const word = seen[at]!
    if (word === 0) continue
    out[at + 1] = floats[at + 3]!
    if (word === GROUND) {
      out[at + 3] = GROUND_PART
      continue
    }
    const triangle = word - 1
    weights[1] = floats[at + 1]!
    weights[2] = floats[at + 2]!
    weights[0] = 1 - weights[1] - weights[2]
    for (let k = 0; k < 3; k++) corners[k] = mesh.indices[triangle * 3 + k]!
    out[at + 3] = partOfTriangle[triangle]! + 1
    if (what.kind === 'uv') {
      out[at] = mesh.uvs ? between(mesh.uvs, 2, 0) : 0
      out[at + 2] = mesh.uvs ? between(mesh.uvs, 2, 1) : 0
      continue
    }
    if (what.kind === 'values') out[at] = between(what.values, 1, 0)
    if (what.kind === 'patch') out[at] = patchOfTriangle[triangle]!
    out[at + 2] = plainLight(mesh, corners, between, view)
  }
  return out
}

/** How much plain light falls on a point of a triangle, 0 to 1. */
function plainLight(
  { positions, normals }: Pick<Mesh, 'positions' | 'normals'>,
  corners: Uint32Array,
  between: (list: ArrayLike<number>, size: number, at: number) => number,
  { eye, light }: PlainView,
): number {
  const corner = (k: number, axis: number): number => positions[corners[k]! * 3 + axis]!
  const side = (k: number, axis: number): number => corner(k, axis) - corner(0, axis)
  let toEye = 0
  let lit = 0
  let squares = 0
  for (let k = 0; k < 3; k++) {
    const [next, last] = [(k + 1) % 3, (k + 2) % 3]
    const across = side(1, next) * side(2, last) - side(1, last) * side(2, next)
    toEye += across * (eye[k]! - eye[3] * corner(0, k))
    const normal = between(normals, 3, k)
    lit += normal * light[k]!
    squares += normal * normal
  }
  const facing = toEye < 0 ? -lit : lit
  return Math.min(1, Math.max(0, facing / (Math.sqrt(squares) || 1)))
}
