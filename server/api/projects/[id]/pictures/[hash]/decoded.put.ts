import { and, eq } from 'drizzle-orm'
import { putBlob } from '../../../../../../node/store/blobs'
import { decodings, pictures } from '../../../../../../node/store/schema'
import { checkPicture, PICTURE_BYTES } from '../../../../../utils/pictures'
import { bytesOf, findProject, refuse } from '../../../../../utils/requests'
import { useRows, useStore, write } from '../../../../../utils/store'

/** Keeps a picture as the browser decoded it, as PNG: the server's own threads read no other kind. */
export default defineEventHandler(async event => {
  const project = await findProject(event)
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
  await write(rows =>
    rows.insert(decodings).values({ hash, decoded }).onConflictDoUpdate({ target: decodings.hash, set: { decoded } }),
  )
  return { hash, decoded }
})
