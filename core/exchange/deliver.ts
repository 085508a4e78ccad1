import { bakeTextures, type BakeOptions } from '../bake/textures'
import { surfaceMeans } from '../bake/values'
import { bakeVertexColors } from '../bake/vertexColors'
import type { MeshTables } from '../evaluate/tables'
import type { Mesh } from '../mesh/mesh'
import type { Kernels } from '../kernels/kernels'
import { lower, reader } from '../program/lower'
import type { Look } from '../graph/look'
import { writeGlb } from './writeGlb'

/** A delivery that cannot be made. The message is one sentence for the artist. */
export class DeliveryError extends Error {}

export interface GlbOptions extends BakeOptions {
  /** Where the base color goes. glTF viewers multiply the two, so it goes to one of them, never to both. */
  colorIn: 'texture' | 'vertices'
  /** The mesh before it was refined for analysis: written where textures carry all of the look, which then needs no more vertices. */
  plain?: Mesh
}

/**
 * A look on a mesh as binary glTF: base color and metallic-roughness as textures through the UVs, or the base color per
 * vertex in `COLOR_0` (then without UVs, metalness and roughness are one number each, the mean over the surface).
 * @throws DeliveryError if textures are asked for and there are no UVs; Stopped if `stopped` says so
 */
export async function deliverGlb(kernels: Kernels, tables: MeshTables, look: Look, options: GlbOptions): Promise<Uint8Array> {
  const { mesh } = tables
  if (options.colorIn === 'texture' && !mesh.uvs) {
    throw new DeliveryError('Textures need UVs, and the mesh has none; vertex colors work without.')
  }
  const program = lower(look, mesh.maps), read = reader(look)
  const vertexColors = options.colorIn === 'vertices' ? bakeVertexColors(kernels, tables, program, read) : undefined
  const textures = mesh.uvs ? bakeTextures(kernels, tables, program, read, options) : undefined
  const means = textures ? undefined : surfaceMeans(kernels, tables, program, read)
  return writeGlb((!vertexColors && options.plain) || mesh, look.name || 'Look', {
    ...(textures && { ...textures, ...(vertexColors && { baseColor: undefined, opacity: false }) }),
    ...(vertexColors && { vertexColors }),
    ...(means && { factors: { baseColor: [1, 1, 1], metalness: means.metalness[0]!, roughness: means.roughness[0]! } }),
  })
}
