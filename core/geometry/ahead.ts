import type { Mesh } from '../mesh/mesh'
import type { MapSettings } from './maps'

/**
 * About how many triangles {@link refine} would make, without a limit. An edge is halved until it is short enough; a
 * triangle whose three edges are halved becomes four.
 * @param scale factor on the mesh's coordinates
 * @param edge longest edge, in meters
 */
export function refinedTriangles({ positions, indices }: Mesh, scale: number, edge: number): number {
  const length = (a: number, b: number): number =>
    scale *
    Math.hypot(
      positions[a * 3]! - positions[b * 3]!,
      positions[a * 3 + 1]! - positions[b * 3 + 1]!,
      positions[a * 3 + 2]! - positions[b * 3 + 2]!,
    )
  const halvings = (a: number, b: number): number => Math.max(0, Math.ceil(Math.log2(length(a, b) / edge)))
  let total = 0
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [indices[t]!, indices[t + 1]!, indices[t + 2]!]
    total += 2 ** ((2 / 3) * (halvings(a, b) + halvings(b, c) + halvings(c, a)))
  }
  return total
}

/** How many rays the maps of a preparation cast from so many vertices. */
export function raysOf(maps: readonly MapSettings[], vertices: number): number {
  return maps.reduce((sum, m) => sum + ('rays' in m ? m.rays * vertices : 0), 0)
}
