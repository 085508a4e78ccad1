import { asc, eq, inArray } from 'drizzle-orm'
import { decodings, pictures } from '../../../../../node/store/schema'
import { findRevision, picturesOf } from '../../../../utils/projects'
import { findProject, revisionAsked } from '../../../../utils/requests'
import { useRows } from '../../../../utils/store'

/** The pictures of a project as they were added, or those that a revision was made with. */
export default defineEventHandler(async event => {
  const project = await findProject(event)
  const asked = revisionAsked(event)
  const rows = await useRows()
  const then = asked === undefined ? undefined : picturesOf(await findRevision(project.id, asked))
  const list =
    then ??
    (await rows
      .select({ name: pictures.name, hash: pictures.hash })
      .from(pictures)
      .where(eq(pictures.project, project.id))
      .orderBy(asc(pictures.added)))
  const known = list.length
    ? await rows
        .select()
        .from(decodings)
        .where(
          inArray(
            decodings.hash,
            list.map(p => p.hash),
          ),
        )
    : []
  const decoded = new Map(known.map(d => [d.hash, d.decoded]))
  return list.map(p => ({ name: p.name, hash: p.hash, decoded: decoded.get(p.hash) ?? null }))
})
