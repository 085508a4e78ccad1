import type { Compressor } from '../bake/compress'
import { rasterizeTile } from '../bake/raster'
import type { Texels } from '../kernels/texels'
import type { Mesh } from '../mesh/mesh'
import { valueAt } from '../mesh/sample'
import { picturesOfTriangles, readLaid, uvsOfSet, type LaidPicture } from './laidPicture'
import { TileSheet } from './tileSheet'

/**
 * Pictures of occlusion of a file's materials as one, on the first UV set of the mesh: 1 where all light from all
 * around arrives. Parts without a picture have 1. What red says counts by the picture's strength, as in glTF 2.0.
 * @param size texels along each side of a tile
 * @returns an EXR file
 * @throws Error with a sentence where the mesh has no UVs that a picture lies on
 */
export function occlusionOfPictures(
  texels: Texels,
  mesh: Mesh,
  sources: readonly LaidPicture[],
  size: number,
  compressor: Compressor,
  progress?: (share: number) => void,
): Uint8Array {
  const of = picturesOfTriangles(mesh, sources)
  const sets = new Map(sources.map(({ uvSet = 0 }) => [uvSet, uvsOfSet(mesh, uvSet)]))
  const sheet = new TileSheet(texels, mesh, size, [false], size >> 6)
  sheet.paint((tile, from, to) => {
    const { texel, points } = rasterizeTile(texels, mesh, size, tile, sheet.tiling, from, to)
    const values = new Float32Array(points.count).fill(1)
    for (let i = 0; i < points.count; i++) {
      const t = points.triangle[i]!
      const source = of[t]
      if (!source) continue
      const uvs = sets.get(source.uvSet ?? 0)!
      const at = (k: number): number => valueAt(mesh.indices, uvs, 2, k, t, points.u[i]!, points.v[i]!)
      values[i] = 1 + (source.strength ?? 1) * (readLaid(source, at(0), at(1))(0) - 1)
    }
    return { texel, values: [values] }
  }, progress)
  return sheet.exr(0, 1, 'half', compressor)
}
