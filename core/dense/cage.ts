import type { Parted } from './partners'
import { cagesOf, widthsOf, type CageSettings } from './transfer'

/** The surfaces where rays begin and where they end, as places of the light mesh's vertices, in meters. */
export interface CageSurfaces {
  outer: Float32Array
  inner: Float32Array
}

/**
 * How far the cage reaches from every vertex of a light mesh, to be shown.
 * @throws Error with a sentence where the vertex map that narrows it is not there
 */
export function cageSurfaces(light: Parted, settings: CageSettings): CageSurfaces {
  const { positions, normals } = light.mesh
  const cages = cagesOf(light, settings)
  const widths = settings.cageMap === undefined ? undefined : widthsOf(light, settings.cageMap)
  const outer = positions.slice()
  const inner = positions.slice()
  for (let v = 0; v < positions.length / 3; v++) {
    const cage = cages[light.parts.partOfVertex[v]!]
    if (!cage) continue
    const width = widths ? widths[v]! : 1
    for (let k = v * 3; k < v * 3 + 3; k++) {
      outer[k]! += normals[k]! * cage.outward * width
      inner[k]! -= normals[k]! * cage.inward * width
    }
  }
  return { outer, inner }
}
