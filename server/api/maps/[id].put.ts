import { putBlob } from '../../../node/store/blobs'
import { geometryMaps } from '../../../node/store/schema'
import { bytesOf, mapId, refuse } from '../../utils/requests'
import { useStore, write } from '../../utils/store'

/** Three numbers for each vertex of the largest analysis mesh. */
const MOST = 3 * 4 * 15_000_000

/** Keeps a geometry map that a browser has computed. */
export default defineEventHandler(async event => {
  const id = mapId(event)
  const bytes = await bytesOf(event, MOST, 'The geometry map')
  if (!bytes.length || bytes.length % 4) throw refuse(422, 'A geometry map is a list of 32-bit floats.')
  const hash = await putBlob(await useStore(), bytes, 'application/octet-stream')
  const made = Date.now()
  await write(rows =>
    rows
      .insert(geometryMaps)
      .values({ id, hash, made })
      .onConflictDoUpdate({ target: geometryMaps.id, set: { hash, made } }),
  )
  return { id }
})
