import { z } from 'zod'
import { deliverySchema } from '#core/deliver/settings'
import { useDatabase } from '../../database/client'
import { presets } from '../../database/schema'
import { body, nameSchema } from '../../utils/requests'

/** Keeps settings of a delivery under a name; those that had it before are replaced. */
export default defineEventHandler(async (event) => {
  const { name, settings } = await body(event, z.strictObject({ name: nameSchema, settings: deliverySchema })), db = await useDatabase(), kept = { settings: JSON.stringify(settings), saved: Date.now() }
  await db.insert(presets).values({ name, ...kept }).onConflictDoUpdate({ target: presets.name, set: kept })
  return { name, settings }
})
