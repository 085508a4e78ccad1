import { and, eq } from 'drizzle-orm'
import { lights } from '../../../../../node/store/schema'
import { sendBlob } from '../../../../utils/sendBlob'
import { useRows } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** A picture of light of a project, by the hash of its file. */
export default route({ may: 'look', project: 'present' }, async event => {
  const project = projectOf(event)
  const hash = getRouterParam(event, 'hash') ?? ''
  const rows = await useRows()
  const [row] = await rows
    .select({ hash: lights.hash })
    .from(lights)
    .where(and(eq(lights.project, project.id), eq(lights.hash, hash)))
    .limit(1)
  return sendBlob(event, row ? hash : null, 'The project has no such picture of light.')
})
