import type { Kernels } from '../kernels/kernels'
import type { Mesh } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'
import type { Look } from '../graph/look'
import { Analyzer } from './analysis'
import type { Sightline } from './rasterize'
import { meshTables, type MeshTables } from './tables'

/** Squares along an edge: enough triangles for an engine to find that their loops are worth being made fast. */
const SQUARES = 16

const FACES = 6

/** A cube of one meter around the origin, each face a grid. */
function cube(): Mesh {
  const positions: number[] = []
  const normals: number[] = []
  const uvs: number[] = []
  const indices: number[] = []
  for (let face = 0; face < FACES; face++) {
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
        uvs.push((face + x / SQUARES) / FACES, y / SQUARES)
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

/** The cube as one part, each face a patch: what is found in it is known, and to find it would take code of its own. */
function partsOfCube({ positions, indices }: Mesh): Parts {
  const triangles = indices.length / 3
  return {
    parts: [
      {
        key: '0000000000000001',
        name: 'cube',
        object: 0,
        group: 0,
        triangles,
        area: 6,
        center: [0, 0, 0],
        size: [1, 1, 1],
        min: [-0.5, -0.5, -0.5],
        centroid: [0, 0, 0],
        longestAxis: [1, 0, 0],
        spread: [0.3727, 0.3727, 0.3727],
      },
    ],
    groups: [{ key: '0000000000000002', name: 'cube', object: 0 }],
    objectKeys: ['0000000000000003'],
    patches: FACES,
    patchOfTriangle: Uint32Array.from({ length: triangles }, (_, t) => Math.floor((t * FACES) / triangles)),
    partOfTriangle: new Uint32Array(triangles),
    partOfVertex: new Uint32Array(positions.length / 3),
    weldDistance: 1e-6,
  }
}

/**
 * A cube on which a look can be run before its mesh is there, so that what runs it is compiled by the time that it is
 * needed.
 */
export function trialTables(): MeshTables {
  const mesh = cube()
  return meshTables(mesh, partsOfCube(mesh), [], undefined, () => ({ pairs: new Uint32Array(0), distance: 0 }))
}

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
  new Analyzer(kernels, trialTables()).gather(look, 'soon', true)
}
