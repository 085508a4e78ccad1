import { eq } from 'drizzle-orm'
import * as z from 'zod'
import { looks, pictures, projects } from '../../../../../../node/store/schema'
import { parseLook } from '#core/graph/look'
import { authorOf } from '../../../../../utils/people'
import { addRevision, fresh, lookName, newestRevision, picturesOf } from '../../../../../utils/projects'
import { body, refuse } from '../../../../../utils/requests'
import { revisionInPath } from '../../../../../utils/revisions'
import { write } from '../../../../../utils/store'
import { projectOf } from '../../../../../rights/admit'
import { route } from '../../../../../rights/route'

/**
 * Makes a look what it was in one of its revisions, and the project with it, mesh and pictures included, as a new
 * revision: what it is now stays one revision back. `base` is the newest revision that the caller has seen.
 */
export default route({ may: 'work', project: 'present', lock: 'holds', does: 'restored a revision' }, async event => {
  const project = projectOf(event)
  const then = await revisionInPath(event, project.id)
  const { base } = await body(event, z.strictObject({ base: z.number().int().min(1) }))
  const list = picturesOf(then)
  if (!list)
    throw refuse(
      422,
      `It is not known which mesh and pictures revision ${then.number} was made with; open it and save its look instead.`,
    )
  const { look, preparation, meshHash, meshName, keysHash, triangles, parts, thumbnailHash } = then
  const mesh = { meshHash, meshName, keysHash, triangles, parts }
  const revision = await write(async rows => {
    const newest = await newestRevision(rows, project.id, then.lookId)
    await fresh(rows, newest, base)
    const number = await addRevision(rows, newest, {
      ...mesh,
      look,
      preparation,
      pictures: then.pictures,
      thumbnailHash,
      author: authorOf(event),
    })
    await rows
      .update(looks)
      .set({ name: lookName(parseLook(JSON.parse(look))), removed: null })
      .where(eq(looks.id, then.lookId))
    await rows
      .update(projects)
      .set({ ...mesh, thumbnailHash })
      .where(eq(projects.id, project.id))
    await rows.delete(pictures).where(eq(pictures.project, project.id))
    // One after the other, so that they stay in their order.
    const added = Date.now()
    if (list.length)
      await rows.insert(pictures).values(list.map((p, i) => ({ ...p, project: project.id, added: added + i })))
    return number
  })
  return { revision }
})
