import { useDatabase } from '../../database/client'
import { geometryMaps } from '../../database/schema'
import { putBlob } from '../../utils/blobs'
import { bytesOf, mapId, refuse } from '../../utils/requests'

/** Three numbers for each vertex of the largest analysis mesh. */
const MOST = 3 * 4 * 15_000_000

/** Keeps a geometry map that a browser has computed. */
export default defineEventHandler(async (event) => {
  const id = mapId(event), bytes = await bytesOf(event, MOST)
  if (!bytes.length || bytes.length % 4) throw refuse(422, 'A geometry map is a list of 32-bit floats.')
  const hash = await putBlob(bytes, 'application/octet-stream'), db = await useDatabase()
  await db.insert(geometryMaps).values({ id, hash, made: Date.now() }).onConflictDoUpdate({ target: geometryMaps.id, set: { hash, made: Date.now() } })
  return { id }
})
