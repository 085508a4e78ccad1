import { eq } from 'drizzle-orm'
import * as z from 'zod'
import { LookError, parseLook } from '#core/graph/look'
import { parsePreparation, PreparationError } from '#core/mesh/preparation'
import { looks } from '../../../../node/store/schema'
import { authorOf } from '../../../utils/people'
import { addRevision, fresh, lookName, newestRevision } from '../../../utils/projects'
import { body, lookAsked, refuse } from '../../../utils/requests'
import { write } from '../../../utils/store'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

const schema = z.strictObject({ base: z.number().int().min(1), look: z.unknown(), preparation: z.unknown().optional() })
/** A look of hundreds of nodes takes a tenth of a megabyte. */
const LIMIT = 16 * 2 ** 20

/**
 * Saves a look (`?look=`; the one saved last where none is named) and the mesh's preparation (as it was, where none is
 * sent) as the next revision. `base` names the revision it was made from; if the look or the mesh has been saved since,
 * the answer is 409 with the newest revision's number, and nothing is written.
 */
export default route({ may: 'work', project: 'present', lock: 'holds', does: 'saved a look' }, async event => {
  const project = projectOf(event)
  const asked = lookAsked(event)
  const { base, look, preparation } = await body(event, schema, LIMIT)
  try {
    const read = parseLook(look)
    const checked = {
      look: JSON.stringify(read),
      ...(preparation !== undefined && { preparation: JSON.stringify(parsePreparation(preparation)) }),
    }
    const revision = await write(async rows => {
      const newest = await newestRevision(rows, project.id, asked)
      await fresh(rows, newest, base)
      await rows
        .update(looks)
        .set({ name: lookName(read) })
        .where(eq(looks.id, newest.lookId))
      return addRevision(rows, newest, { ...checked, author: authorOf(event) })
    })
    return { revision }
  } catch (error) {
    throw error instanceof LookError || error instanceof PreparationError ? refuse(400, error.message) : error
  }
})
