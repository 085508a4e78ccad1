import { denseOf } from '../../../../utils/projects'
import { findProject } from '../../../../utils/requests'
import { sendBlob } from '../../../../utils/sendBlob'

/** The keys of the parts of a project's dense mesh. */
export default defineEventHandler(async event => {
  const row = await denseOf((await findProject(event)).id)
  return sendBlob(event, row?.keysHash, 'The project has no dense mesh.', false)
})
