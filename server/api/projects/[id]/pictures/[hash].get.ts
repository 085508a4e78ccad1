import { and, eq } from 'drizzle-orm'
import { pictures, revisions } from '../../../../../node/store/schema'
import { picturesOf } from '../../../../utils/projects'
import { sendBlob } from '../../../../utils/sendBlob'
import { useRows } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** A picture of a project, or of one of its revisions, by the hash of its file. */
export default route({ may: 'look', project: 'present' }, async event => {
  const project = projectOf(event)
  const hash = getRouterParam(event, 'hash') ?? ''
  const rows = await useRows()
  const [row] = await rows
    .select({ hash: pictures.hash })
    .from(pictures)
    .where(and(eq(pictures.project, project.id), eq(pictures.hash, hash)))
    .limit(1)
  const before = row
    ? []
    : await rows.select({ pictures: revisions.pictures }).from(revisions).where(eq(revisions.project, project.id))
  const own = row || before.some(r => picturesOf(r)?.some(p => p.hash === hash))
  return sendBlob(event, own ? hash : null, 'The project has no such picture.')
})
