import { and, eq } from 'drizzle-orm'
import { revisions } from '../../../../../../node/store/schema'
import { findDelivery } from '../../../../../queue/findDelivery'
import { deliverySummary } from '../../../../../queue/queue'
import { lastSave } from '../../../../../utils/projects'
import { useRows } from '../../../../../utils/store'
import { route } from '../../../../../rights/route'

/**
 * A delivery with its look, which is null where the revision that it was made of is not kept any more, and whether that
 * revision is all that the look is now.
 */
export default route({ may: 'look', project: 'present' }, async event => {
  const row = await findDelivery(event)
  const rows = await useRows()
  const ofProject = eq(revisions.project, row.project)
  const [made] = await rows
    .select({ look: revisions.lookId })
    .from(revisions)
    .where(and(ofProject, eq(revisions.number, row.revision)))
  if (!made) return { ...deliverySummary(row), look: null, current: false }
  const { own, whole } = await lastSave(rows, row.project, made.look)
  return { ...deliverySummary(row), look: made.look, current: whole && own.number === row.revision }
})
