import { eq } from 'drizzle-orm'
import { useDatabase } from '../../database/client'
import { presets } from '../../database/schema'
import { refuse } from '../../utils/requests'

export default defineEventHandler(async (event) => {
  const name = String(getQuery(event).name ?? ''), db = await useDatabase(), gone = await db.delete(presets).where(eq(presets.name, name)).returning({ name: presets.name })
  if (!gone.length) throw refuse(404, 'There are no settings of that name.')
  return gone[0]
})
