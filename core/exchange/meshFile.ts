import type { Extras, MeshMaterial, MeshNode, Surface } from '../mesh/mesh'

/** A file that cannot be read. The message is one sentence for the artist: what is wrong, and where. */
export class MeshFileError extends Error {}

export interface ReadLimits {
  bytes: number
  triangles: number
}
export const READ_LIMITS: ReadLimits = { bytes: 512 * 2 ** 20, triangles: 5_000_000 }

/** Files that come along with one of those. */
export const COMPANION_ENDINGS = ['.bin', '.mtl', '.png', '.jpg', '.jpeg', '.webp', '.ktx2'] as const

export const fail = (message: string): never => {
  throw new MeshFileError(message)
}
export const megabytes = (bytes: number): string => `${Math.round(bytes / 2 ** 20)} MB`

export function checkTriangles(count: number, limits: ReadLimits): void {
  if (count > limits.triangles)
    fail(`The file has more than ${limits.triangles.toLocaleString('en-US')} triangles, which is the limit.`)
}

/** What a reader may use that differs between the browser and Node. */
export interface ReadOptions {
  limits?: ReadLimits
  /** The Draco decoder module; asked for only when a file is compressed with it. */
  draco?: () => Promise<unknown>
  /** Is told which share of a text file was read, 0 to 1: those take longest. */
  progress?: (share: number) => void
}

/** A stretch of surface with vertices of its own, in its object's space, as a reader finds it. */
export interface Piece {
  object: number
  /** From the piece's space to the world, column by column. */
  matrix: readonly number[]
  /** Names of materials, each for a run of corners. */
  runs: { material: string; corners: number }[]
  positions: Float32Array
  normals?: Float32Array
  uvs?: Float32Array
  triangles: Uint32Array
  maps: Map<string, { components: number; values: Float32Array }>
}

/** Everything a reader finds, before it is laid end to end. */
export interface Found {
  pieces: Piece[]
  objects: { name: string; parents: string[]; node?: number; shape?: number; extras?: Extras }[]
  nodes?: MeshNode[]
  extras?: Extras
  surfaces: Surface[]
  warnings: string[]
}

export const IDENTITY: readonly number[] = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]

/** @throws MeshFileError at the first position that is not a finite number, or that 32-bit floats cannot square. */
export function checkPositions(positions: Float32Array, name: string): void {
  for (let i = 0; i < positions.length; i++) {
    if (!(Math.abs(positions[i]!) < 1e15))
      fail(`Vertex ${Math.floor(i / 3)} of "${name}" has a position that is not a number.`)
  }
}

/** @throws MeshFileError at the first triangle that names a vertex that is not there. */
export function checkIndices(triangles: Uint32Array, count: number, name: string): void {
  for (let i = 0; i < triangles.length; i++) {
    if (triangles[i]! >= count)
      fail(`A triangle of "${name}" names vertex ${triangles[i]!}, but there are only ${count} vertices.`)
  }
}

export type { MeshMaterial, Surface }
