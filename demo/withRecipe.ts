import type { LookNode } from '../core/graph/look'
import type { Preparation } from '../core/mesh/preparation'
import { RECIPES } from '../core/recipes'
import { fillMaps } from '../core/recipes/fillMaps'

/** A node of a shipped recipe, with the geometry maps of a preparation. */
export function withRecipe(
  preparation: Preparation,
): (id: string, title: string, at: [number, number], params?: LookNode['params'], name?: string) => LookNode {
  return (id, title, at, params = {}, name) => {
    const { recipe, missing } = fillMaps(
      RECIPES.find(r => r.title === title)!,
      preparation.maps,
      [],
      1,
    )
    if (missing.length)
      throw new Error(
        `${title} asks for maps that the preparation does not have: ${missing.map(m => m.name).join(', ')}`,
      )
    return { id, kind: 'recipe', at, params, recipe, ...(name && { name }) }
  }
}
