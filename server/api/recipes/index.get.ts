import { asc } from 'drizzle-orm'
import { parseRecipe } from '#core/graph/look'
import { recipes } from '../../../node/store/schema'
import { useRows } from '../../utils/store'
import { route } from '../../rights/route'

/** The library of recipes, by title. */
export default route({ may: 'look' }, async () => {
  const rows = await (await useRows()).select().from(recipes).orderBy(asc(recipes.title))
  return rows.flatMap(r => {
    try {
      return [{ id: r.id, saved: r.saved, recipe: parseRecipe(JSON.parse(r.recipe)) }]
    } catch {
      // One that a newer version wrote must not hide the others.
      return []
    }
  })
})
