import { eq } from 'drizzle-orm'
import { rm } from 'node:fs/promises'
import { useDatabase } from '../../../../../database/client'
import { deliveries } from '../../../../../database/schema'
import { cancelDelivery, folderOf } from '../../../../../utils/deliveries'
import { findDelivery } from '../../../../../utils/findDelivery'

/** Forgets a delivery and removes its files; one that runs is stopped first. */
export default defineEventHandler(async (event) => {
  const row = await findDelivery(event), db = await useDatabase()
  await cancelDelivery(row)
  await db.delete(deliveries).where(eq(deliveries.id, row.id))
  await rm(folderOf(row.id), { recursive: true, force: true })
  return { id: row.id }
})
