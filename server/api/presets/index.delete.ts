import { eq } from 'drizzle-orm'
import { presets } from '../../../node/store/schema'
import { refuse } from '../../utils/requests'
import { write } from '../../utils/store'
import { route } from '../../rights/route'

export default route({ may: 'work', does: 'deleted delivery settings' }, async event => {
  const name = String(getQuery(event).name ?? '')
  const [gone] = await write(rows =>
    rows.delete(presets).where(eq(presets.name, name)).returning({ name: presets.name }),
  )
  if (!gone) throw refuse(404, 'There are no settings of that name.')
  return gone
})
