import { asc } from 'drizzle-orm'
import { parseRecipe } from '#core/graph/look'
import { useDatabase } from '../../database/client'
import { recipes } from '../../database/schema'

/** The library of recipes, by title. */
export default defineEventHandler(async () => {
  const db = await useDatabase(), rows = await db.select().from(recipes).orderBy(asc(recipes.title))
  return rows.flatMap((r) => {
    try {
      return [{ id: r.id, saved: r.saved, recipe: parseRecipe(JSON.parse(r.recipe)) }]
    }
    catch {
      // One that a newer version wrote must not hide the others.
      return []
    }
  })
})
