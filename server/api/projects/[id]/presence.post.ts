import { and, eq, gt, lt } from 'drizzle-orm'
import * as z from 'zod'
import { presence } from '../../../../node/store/schema'
import { looksOf } from '../../../utils/looks'
import { authorOf } from '../../../utils/people'
import { isFresh, newestRevision } from '../../../utils/projects'
import { body } from '../../../utils/requests'
import { useRows, write } from '../../../utils/store'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

/** A window that has not said for so long that it is there has gone, in milliseconds. */
const GONE = 30_000
const schema = z.strictObject({
  window: z.string().regex(/^[a-z0-9-]{4,64}$/),
  leaves: z.boolean().optional(),
  look: z.uuid().optional(),
  base: z.number().int().min(1).optional(),
})

/**
 * Says that a window has the project open, or leaves it.
 * @returns who else has it open, the newest revision, and whether `base` is from before a save of `look` or of the mesh
 */
export default route({ may: 'look', project: 'present', lock: 'passes', does: null }, async event => {
  const project = projectOf(event)
  const { window, leaves, look, base } = await body(event, schema)
  const seen = Date.now()
  const user = authorOf(event) ?? ''
  await write(async rows => {
    await rows.delete(presence).where(lt(presence.seen, seen - GONE))
    if (leaves) await rows.delete(presence).where(and(eq(presence.project, project.id), eq(presence.window, window)))
    else
      await rows
        .insert(presence)
        .values({ project: project.id, window, user, seen })
        .onConflictDoUpdate({ target: [presence.project, presence.window], set: { user, seen } })
  })
  const rows = await useRows()
  const there = await rows
    .select()
    .from(presence)
    .where(and(eq(presence.project, project.id), gt(presence.seen, seen - GONE)))
  const now = await newestRevision(rows, project.id, look)
  return {
    revision: now.number,
    behind: base !== undefined && !(await isFresh(rows, now, base)),
    looks: await looksOf(rows, project.id),
    locked: project.locked,
    lockedBy: project.lockedBy,
    others: there.filter(p => p.window !== window).map(p => ({ window: p.window, user: p.user })),
  }
})
