import { asc } from 'drizzle-orm'
import { deliverySchema } from '#core/deliver/settings'
import { useDatabase } from '../../database/client'
import { presets } from '../../database/schema'

/** Settings of deliveries that were kept, by name. */
export default defineEventHandler(async () => {
  const db = await useDatabase(), rows = await db.select().from(presets).orderBy(asc(presets.name))
  return rows.flatMap((r) => {
    const read = deliverySchema.safeParse(JSON.parse(r.settings))
    return read.success ? [{ name: r.name, settings: read.data }] : []
  })
})
