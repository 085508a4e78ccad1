import { and, asc, eq } from 'drizzle-orm'
import type { H3Event } from 'h3'
import { looks } from '../../node/store/schema'
import type { Rows } from '../../node/store/store'
import { refuse } from './requests'
import { useRows } from './store'

type LookRow = typeof looks.$inferSelect

/** A look of a project as the interface lists it. */
export const lookSummary = ({ id, name, removed, thumbnailHash }: LookRow) => ({
  id,
  name,
  removed,
  thumbnail: thumbnailHash,
})

/** The looks of a project in their order, removed ones too. */
export async function looksOf(rows: Rows, project: string) {
  const all = await rows
    .select()
    .from(looks)
    .where(eq(looks.project, project))
    .orderBy(asc(looks.position), asc(looks.made))
  return all.map(lookSummary)
}

/** The look named in the path, of a project. */
export async function lookInPath(event: H3Event, project: string): Promise<LookRow> {
  const rows = await useRows()
  const [row] = await rows
    .select()
    .from(looks)
    .where(and(eq(looks.project, project), eq(looks.id, getRouterParam(event, 'look') ?? '')))
  if (!row) throw refuse(404, 'The project has no such look.')
  return row
}
