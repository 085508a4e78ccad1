import { eq } from 'drizzle-orm'
import { useDatabase } from '../../database/client'
import { geometryMaps } from '../../database/schema'
import { getBlob } from '../../utils/blobs'
import { mapId } from '../../utils/requests'

export default defineEventHandler(async (event) => {
  const db = await useDatabase(), [row] = await db.select().from(geometryMaps).where(eq(geometryMaps.id, mapId(event)))
  const blob = row && await getBlob(row.hash)
  // Nothing is wrong where a map was not computed yet, so this is no error.
  if (!blob) return sendNoContent(event)
  setHeaders(event, { 'content-type': 'application/octet-stream', 'cache-control': 'private, max-age=31536000, immutable' })
  return blob.bytes
})
