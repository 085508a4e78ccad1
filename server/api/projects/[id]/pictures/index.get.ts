import { asc, eq, inArray } from 'drizzle-orm'
import { decodings, pictures } from '../../../../../node/store/schema'
import { findRevision, picturesOf } from '../../../../utils/projects'
import { revisionAsked } from '../../../../utils/requests'
import { useRows } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** The pictures of a project as they were added, or those that a revision was made with. */
export default route({ may: 'look', project: 'present' }, async event => {
  const project = projectOf(event)
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
