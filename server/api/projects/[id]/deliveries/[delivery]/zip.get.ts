import { Zip, ZipPassThrough } from 'fflate'
import { createReadStream } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { manifestSchema } from '#core/deliver/manifest'
import { fileStem } from '#core/exchange/names'
import { folderOf } from '../../../../../../node/store/places'
import { findDelivery } from '../../../../../queue/findDelivery'
import { refuse } from '../../../../../utils/requests'
import { route } from '../../../../../rights/route'

/**
 * All files of a delivery as one zip, written while they are read. What is in it is compressed already, so it is only
 * stored.
 */
export default route({ may: 'look', project: 'present' }, async event => {
  const row = await findDelivery(event)
  const folder = folderOf(row.id)
  if (row.state !== 'done') throw refuse(404, 'This delivery is not complete.')
  const text = await readFile(join(folder, 'manifest.json'), 'utf8').catch(() => {
    throw refuse(410, 'The files of this delivery are not there any more.')
  })
  const { files } = manifestSchema.parse(JSON.parse(text))
  const stem = fileStem(row.name, 'delivery')
  async function* pieces(): AsyncGenerator<Uint8Array> {
    const ready: Uint8Array[] = []
    const zip = new Zip((error, data) => {
      if (error) throw error
      ready.push(data)
    })
    for (const path of [...files.map(f => f.path), 'manifest.json']) {
      const entry = new ZipPassThrough(path.replaceAll('\\', '/'))
      zip.add(entry)
      for await (const chunk of createReadStream(join(folder, path), {
        highWaterMark: 1 << 20,
      }) as AsyncIterable<Buffer>) {
        entry.push(new Uint8Array(chunk))
        yield* ready.splice(0)
      }
      entry.push(new Uint8Array(0), true)
    }
    zip.end()
    yield* ready.splice(0)
  }
  setHeaders(event, { 'content-type': 'application/zip', 'content-disposition': `attachment; filename="${stem}.zip"` })
  return sendStream(event, Readable.from(pieces()))
})
