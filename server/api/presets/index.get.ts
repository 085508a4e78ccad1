import { asc } from 'drizzle-orm'
import { deliverySchema } from '#core/deliver/settings'
import { presets } from '../../../node/store/schema'
import { useRows } from '../../utils/store'
import { route } from '../../rights/route'

/** Settings of deliveries that were kept, by name. */
export default route({ may: 'look' }, async () => {
  const rows = await (await useRows()).select().from(presets).orderBy(asc(presets.name))
  return rows.flatMap(r => {
    const read = deliverySchema.safeParse(JSON.parse(r.settings))
    return read.success ? [{ name: r.name, settings: read.data }] : []
  })
})
