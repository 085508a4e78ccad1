import { and, eq } from 'drizzle-orm'
import { lights } from '../../../../../node/store/schema'
import { findProject } from '../../../../utils/requests'
import { sendBlob } from '../../../../utils/sendBlob'
import { useRows } from '../../../../utils/store'

/** A picture of light of a project, by the hash of its file. */
export default defineEventHandler(async event => {
  const project = await findProject(event)
  const hash = getRouterParam(event, 'hash') ?? ''
  const rows = await useRows()
  const [row] = await rows
    .select({ hash: lights.hash })
    .from(lights)
    .where(and(eq(lights.project, project.id), eq(lights.hash, hash)))
    .limit(1)
  return sendBlob(event, row ? hash : null, 'The project has no such picture of light.')
})
