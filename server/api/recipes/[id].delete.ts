import { eq } from 'drizzle-orm'
import { useDatabase } from '../../database/client'
import { recipes } from '../../database/schema'
import { refuse } from '../../utils/requests'

export default defineEventHandler(async (event) => {
  const db = await useDatabase(), gone = await db.delete(recipes).where(eq(recipes.id, getRouterParam(event, 'id') ?? '')).returning({ id: recipes.id })
  if (!gone.length) throw refuse(404, 'There is no such recipe in the library.')
  return { id: gone[0]!.id }
})
