import { readPicture, type Picture } from '../evaluate/pictures'
import type { Mesh, SurfacePicture } from '../mesh/mesh'

/** A picture of a file's material, and where it lies. */
export interface LaidPicture extends Pick<SurfacePicture, 'uvSet' | 'placed' | 'beyond' | 'nearest' | 'strength'> {
  picture: Picture
  /** The material that has it; without one, all have. */
  material?: string
}

/** For each triangle the picture of its material, where there is one. */
export function picturesOfTriangles<T extends LaidPicture>(mesh: Mesh, sources: readonly T[]): (T | undefined)[] {
  const of = new Array<T | undefined>(mesh.indices.length / 3)
  for (const run of mesh.materials) {
    const source = sources.find(s => s.material === undefined || s.material === run.name)
    of.fill(source, run.firstTriangle, run.firstTriangle + run.triangles)
  }
  return of
}

/** The UVs of a set, counted from 0. @throws Error with a sentence where the mesh has none */
export function uvsOfSet(mesh: Mesh, uvSet: number): Float32Array {
  const uvs = uvSet ? mesh.maps.find(m => m.name === `UV ${uvSet + 1}` && m.components === 2)?.values : mesh.uvs
  if (!uvs) throw new Error(`The mesh has no UV set ${uvSet + 1}, on which a picture of its material lies.`)
  return uvs
}

/**
 * Reads numbers of a picture as its material lays it: KHR_texture_transform of glTF, offset after rotation after scale.
 * @returns takes a channel, 0 to 3
 */
export function readLaid(
  { picture, placed, beyond, nearest }: LaidPicture,
  u: number,
  v: number,
): (channel: number) => number {
  const { move = [0, 0], turn = 0, scale = [1, 1] } = placed ?? {}
  const p = u * scale[0]
  const q = v * scale[1]
  const s = Math.cos(turn) * p + Math.sin(turn) * q + move[0]
  const r = -Math.sin(turn) * p + Math.cos(turn) * q + move[1]
  const [across, down] = beyond ?? ['repeat', 'repeat']
  const reading = { linear: true, across, down, nearest: nearest === true }
  return channel => readPicture(picture, channel, reading, s, r)
}
