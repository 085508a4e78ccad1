import { putBlob } from '../../../node/store/blobs'
import { geometryMaps } from '../../../node/store/schema'
import { bytesOf, mapId, refuse } from '../../utils/requests'
import { useStore, write } from '../../utils/store'
import { route } from '../../rights/route'

/** Three numbers for each vertex of the largest analysis mesh. */
const MOST = 3 * 4 * 15_000_000

/** Keeps a geometry map that a browser has computed. One that is there already stays: deliveries were made with it. */
export default route({ may: 'work', does: null }, async event => {
  const id = mapId(event)
  const bytes = await bytesOf(event, MOST, 'The geometry map')
  if (!bytes.length || bytes.length % 4) throw refuse(422, 'A geometry map is a list of 32-bit floats.')
  // Copied, because a Float32Array must begin at a multiple of four bytes and a request's buffer may not.
  const values = new Float32Array(new Uint8Array(bytes).buffer)
  if (!values.every(Number.isFinite)) throw refuse(422, 'A geometry map has finite numbers only.')
  const hash = await putBlob(await useStore(), bytes, 'application/octet-stream')
  const made = Date.now()
  await write(rows => rows.insert(geometryMaps).values({ id, hash, made }).onConflictDoNothing())
  return { id }
})
