import { max, eq } from 'drizzle-orm'
import * as z from 'zod'
import { emptyLook, parseLook } from '#core/graph/look'
import { looks } from '../../../../../node/store/schema'
import { authorOf } from '../../../../utils/people'
import { addRevision, insertLook, newestRevision } from '../../../../utils/projects'
import { looksOf } from '../../../../utils/looks'
import { body, nameSchema, refuse } from '../../../../utils/requests'
import { write } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** As many as a list of them can still be read. */
const MOST = 100
const schema = z.strictObject({ name: nameSchema, from: z.uuid().optional() })

/**
 * Adds a look to a project: an empty one, or a copy of the look `from` as it is now.
 * @returns its id, and the looks that there are
 */
export default route({ may: 'work', project: 'present', lock: 'holds', does: 'added a look' }, async event => {
  const project = projectOf(event)
  const { name, from } = await body(event, schema)
  return write(async rows => {
    const before = await looksOf(rows, project.id)
    if (before.length >= MOST) throw refuse(422, `A project has at most ${MOST} looks, removed ones included.`)
    const newest = await newestRevision(rows, project.id, from)
    const look = { ...(from ? parseLook(JSON.parse(newest.look)) : emptyLook()), name }
    const [last] = await rows
      .select({ position: max(looks.position) })
      .from(looks)
      .where(eq(looks.project, project.id))
    const thumbnailHash = from ? newest.thumbnailHash : null
    const position = (last?.position ?? 0) + 1
    const id = await insertLook(rows, { project: project.id, look, position, thumbnailHash })
    await addRevision(rows, newest, {
      lookId: id,
      look: JSON.stringify(look),
      thumbnailHash,
      author: authorOf(event),
    })
    return { id, looks: await looksOf(rows, project.id) }
  })
})
