import * as z from 'zod'
import { deliverySchema } from '#core/deliver/settings'
import { presets } from '../../../node/store/schema'
import { body, nameSchema } from '../../utils/requests'
import { write } from '../../utils/store'
import { route } from '../../rights/route'

/** Keeps settings of a delivery under a name; those that had it before are replaced. */
export default route({ may: 'work', does: 'kept delivery settings' }, async event => {
  const { name, settings } = await body(event, z.strictObject({ name: nameSchema, settings: deliverySchema }))
  const kept = { settings: JSON.stringify(settings), saved: Date.now() }
  await write(rows =>
    rows
      .insert(presets)
      .values({ name, ...kept })
      .onConflictDoUpdate({ target: presets.name, set: kept }),
  )
  return { name, settings }
})
