import type { Kernels } from '../kernels/kernels'
import { emptyPreparation } from '../mesh/preparation'
import type { Mesh } from '../mesh/mesh'
import type { Look } from '../graph/look'
import { Analyzer } from './analysis'
import { Workpiece } from './workpiece'
import type { Sightline } from './rasterize'

/** Squares along an edge: enough triangles for an engine to find that their loops are worth being made fast. */
const SQUARES = 16

/** A cube of one meter around the origin, each face a grid. */
function cube(): Mesh {
  const positions: number[] = []
  const normals: number[] = []
  const uvs: number[] = []
  const indices: number[] = []
  for (let face = 0; face < 6; face++) {
    const axis = face >> 1
    const sign = face & 1 ? 1 : -1
    const base = positions.length / 3
    for (let y = 0; y <= SQUARES; y++) {
      for (let x = 0; x <= SQUARES; x++) {
        const at = [0, 0, 0]
        at[axis] = sign / 2
        at[(axis + 1) % 3] = (x / SQUARES - 0.5) * sign
        at[(axis + 2) % 3] = y / SQUARES - 0.5
        positions.push(...at)
        normals.push(...[0, 1, 2].map(k => (k === axis ? sign : 0)))
        uvs.push((face + x / SQUARES) / 6, y / SQUARES)
        if (x === SQUARES || y === SQUARES) continue
        const corner = base + y * (SQUARES + 1) + x
        const above = corner + SQUARES + 1
        indices.push(corner, corner + 1, above, above, corner + 1, above + 1)
      }
    }
  }
  const vertices = positions.length / 3
  return {
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    uvs: Float32Array.from(uvs),
    indices: Uint32Array.from(indices),
    objects: [{ name: 'cube', firstVertex: 0, vertices, firstTriangle: 0, triangles: indices.length / 3 }],
    materials: [],
    maps: [],
    warnings: [],
  }
}

/**
 * A cube on which a look can be run before its mesh is there, so that what runs it is compiled by the time that it is
 * needed.
 */
export const trialPiece = (): Workpiece => new Workpiece(cube(), emptyPreparation())

/** Pixels along the sides of a picture of the cube, and how it is seen: from the front, without perspective. */
export const TRIAL_PIXELS = 64
const IDENTITY = [0, 1, 2, 3].flatMap(i => [0, 1, 2, 3].map(k => Number(i === k)))
export const trialSight: Sightline = {
  clip: IDENTITY,
  world: IDENTITY,
  view: IDENTITY,
  near: -1,
  width: TRIAL_PIXELS,
  height: TRIAL_PIXELS,
}

/** Has a look gathered on the cube: the statistics of its surface, and what draws need of all parts. */
export function tryGathering(kernels: Kernels, look: Look): void {
  new Analyzer(kernels, trialPiece().tables).gather(look, 'soon', true)
}
