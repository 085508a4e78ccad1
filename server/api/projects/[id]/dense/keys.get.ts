import { denseOf } from '../../../../utils/projects'
import { sendBlob } from '../../../../utils/sendBlob'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** The keys of the parts of a project's dense mesh. */
export default route({ may: 'look', project: 'present' }, async event => {
  const row = await denseOf(projectOf(event).id)
  return sendBlob(event, row?.keysHash, 'The project has no dense mesh.', false)
})
