import { eq } from 'drizzle-orm'
import { geometryMaps } from '../../../node/store/schema'
import { mapId } from '../../utils/requests'
import { sendBlob } from '../../utils/sendBlob'
import { useRows } from '../../utils/store'
import { route } from '../../rights/route'

/** A geometry map that was computed before. */
export default route({ may: 'look' }, async event => {
  const [row] = await (
    await useRows()
  )
    .select()
    .from(geometryMaps)
    .where(eq(geometryMaps.id, mapId(event)))
  // Nothing is wrong where a map was not computed yet, so this is no error.
  if (!row) return sendNoContent(event)
  return sendBlob(event, row.hash, 'The geometry map is not there any more.')
})
