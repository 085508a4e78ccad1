import { and, eq } from 'drizzle-orm'
import { putBlob } from '../../../../../../node/store/blobs'
import { decodings, pictures } from '../../../../../../node/store/schema'
import { checkPicture, PICTURE_BYTES } from '../../../../../utils/pictures'
import { bytesOf, refuse } from '../../../../../utils/requests'
import { useRows, useStore, write } from '../../../../../utils/store'
import { projectOf } from '../../../../../rights/admit'
import { route } from '../../../../../rights/route'

/**
 * Keeps a picture as the browser decoded it, as PNG: the server's own threads read no other kind. One that is kept
 * already stays: deliveries were made with it.
 */
export default route({ may: 'work', project: 'present', lock: 'holds', does: null }, async event => {
  const project = projectOf(event)
  const hash = getRouterParam(event, 'hash') ?? ''
  const bytes = await bytesOf(event, PICTURE_BYTES, 'The picture')
  if (checkPicture('The decoded picture', bytes) !== 'image/png') throw refuse(422, 'A decoded picture is a PNG.')
  const [own] = await (
    await useRows()
  )
    .select({ hash: pictures.hash })
    .from(pictures)
    .where(and(eq(pictures.project, project.id), eq(pictures.hash, hash)))
  if (!own) throw refuse(404, 'The project has no such picture.')
  const decoded = await putBlob(await useStore(), bytes, 'image/png')
  await write(rows => rows.insert(decodings).values({ hash, decoded }).onConflictDoNothing())
  return { hash, decoded }
})
