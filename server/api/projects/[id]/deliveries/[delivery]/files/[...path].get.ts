import { createReadStream } from 'node:fs'
import { readFile, stat } from 'node:fs/promises'
import { extname, join } from 'node:path'
import { manifestSchema } from '#core/deliver/manifest'
import { folderOf } from '../../../../../../../node/store/places'
import { findDelivery } from '../../../../../../queue/findDelivery'
import { refuse } from '../../../../../../utils/requests'
import { route } from '../../../../../../rights/route'

const TYPES: Record<string, string> = {
  '.png': 'image/png',
  '.glb': 'model/gltf-binary',
  '.json': 'application/json',
  '.csv': 'text/csv',
  '.mtlx': 'application/xml',
  '.usda': 'text/plain',
  '.zip': 'application/zip',
}

/** A path as it was before it was put into an address; nothing for one that no address has. */
function decoded(path: string): string {
  try {
    return decodeURIComponent(path)
  } catch {
    return ''
  }
}

/** One file of a delivery. Only what its manifest names, and the manifest itself, is handed out. */
export default route({ may: 'look', project: 'present' }, async event => {
  const row = await findDelivery(event)
  const path = decoded(getRouterParam(event, 'path') ?? '')
  const folder = folderOf(row.id)
  if (row.state !== 'done') throw refuse(404, 'This delivery is not complete.')
  const text = await readFile(join(folder, 'manifest.json'), 'utf8').catch(() => {
    throw refuse(410, 'The files of this delivery are not there any more.')
  })
  if (path !== 'manifest.json' && !manifestSchema.parse(JSON.parse(text)).files.some(f => f.path === path))
    throw refuse(404, 'The delivery has no such file.')
  const size = await stat(join(folder, path)).then(
    s => s.size,
    () => {
      throw refuse(410, 'The files of this delivery are not there any more.')
    },
  )
  setHeaders(event, {
    'content-type': TYPES[extname(path)] ?? 'application/octet-stream',
    'content-length': size,
    'cache-control': 'private, max-age=3600',
  })
  return sendStream(event, createReadStream(join(folder, path)))
})
