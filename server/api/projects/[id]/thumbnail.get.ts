import { getBlob } from '../../../utils/blobs'
import { findProject, refuse } from '../../../utils/requests'

export default defineEventHandler(async (event) => {
  const { thumbnailHash } = await findProject(event, true), blob = thumbnailHash && await getBlob(thumbnailHash)
  if (!blob) throw refuse(404, 'The project has no picture yet.')
  setHeaders(event, { 'content-type': blob.type, 'cache-control': 'private, max-age=31536000, immutable' })
  return blob.bytes
})
