import { and, eq, gt, lt } from 'drizzle-orm'
import { z } from 'zod'
import { presence } from '../../../../node/store/schema'
import { authorOf } from '../../../utils/people'
import { newestRevision } from '../../../utils/projects'
import { body, findProject } from '../../../utils/requests'
import { useRows, write } from '../../../utils/store'

/** A window that has not said for so long that it is there has gone, in milliseconds. */
const GONE = 30_000
const schema = z.strictObject({ window: z.string().regex(/^[a-z0-9-]{4,64}$/), leaves: z.boolean().optional() })

/** Says that a window has the project open, or leaves it. @returns who else has it open, and the newest revision */
export default defineEventHandler(async event => {
  const project = await findProject(event)
  const { window, leaves } = await body(event, schema)
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
  const { number } = await newestRevision(rows, project.id)
  return {
    revision: number,
    locked: project.locked,
    lockedBy: project.lockedBy,
    others: there.filter(p => p.window !== window).map(p => ({ window: p.window, user: p.user })),
  }
})
