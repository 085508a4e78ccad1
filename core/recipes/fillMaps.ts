import { MAP_KINDS, type MapKind, type MapSettings } from '../geometry/maps'
import type { Recipe } from '../graph/look'
import { newMap } from '../mesh/setEdits'

const kindOf = (name: unknown): MapKind | undefined =>
  typeof name === 'string' && name.startsWith('?') ? MAP_KINDS.find(k => k === name.slice(1)) : undefined

/**
 * Gives the geometry maps that a recipe asks for by kind (`?convexity`) the names of maps of this project; where there
 * is none of a kind, one is made up.
 * @param taken names of all vertex maps
 * @param diagonal of the mesh in meters: what sizes are suggested by
 */
export function fillMaps(
  recipe: Recipe,
  maps: readonly MapSettings[],
  taken: readonly string[],
  diagonal: number,
): { recipe: Recipe; missing: MapSettings[] } {
  const missing: MapSettings[] = []
  const nameOf = (kind: MapKind): string => {
    const known = [...maps, ...missing].find(m => m.kind === kind)
    if (known) return known.name
    const made = newMap(kind, diagonal, [...taken, ...missing.map(m => m.name)])
    missing.push(made)
    return made.name
  }
  const fill = (r: Recipe): Recipe => ({
    ...r,
    nodes: r.nodes.map(n => {
      const kind = kindOf(n.params.map)
      return {
        ...n,
        ...(kind && { params: { ...n.params, map: nameOf(kind) } }),
        ...(n.recipe && { recipe: fill(n.recipe) }),
      }
    }),
  })
  return { recipe: fill(recipe), missing }
}
