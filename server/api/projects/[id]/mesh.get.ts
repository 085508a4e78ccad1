import { getBlob } from '../../../utils/blobs'
import { findProject, refuse } from '../../../utils/requests'

export default defineEventHandler(async (event) => {
  const { meshHash } = await findProject(event), blob = meshHash && await getBlob(meshHash)
  if (!blob) throw refuse(404, 'The project has no mesh yet.')
  setHeaders(event, { 'content-type': blob.type, 'content-length': blob.bytes.length, 'etag': `"${meshHash}"`, 'cache-control': 'private, no-cache' })
  return blob.bytes
})
