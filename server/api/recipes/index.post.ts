import { randomUUID } from 'node:crypto'
import { z } from 'zod'
import { LookError, parseRecipe } from '#core/graph/look'
import { useDatabase } from '../../database/client'
import { recipes } from '../../database/schema'
import { body, refuse } from '../../utils/requests'

/** Puts a recipe into the library. */
export default defineEventHandler(async (event) => {
  const { recipe } = await body(event, z.strictObject({ recipe: z.unknown() }))
  try {
    const checked = parseRecipe(recipe), id = randomUUID(), saved = Date.now(), db = await useDatabase()
    await db.insert(recipes).values({ id, title: checked.title, saved, recipe: JSON.stringify(checked) })
    return { id, saved, recipe: checked }
  }
  catch (error) {
    throw error instanceof LookError ? refuse(400, error.message) : error
  }
})
