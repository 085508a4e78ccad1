import { eq } from 'drizzle-orm'
import * as z from 'zod'
import { looks } from '../../../../../../node/store/schema'
import { lookInPath, looksOf } from '../../../../../utils/looks'
import { body, refuse } from '../../../../../utils/requests'
import { write } from '../../../../../utils/store'
import { projectOf } from '../../../../../rights/admit'
import { route } from '../../../../../rights/route'

const schema = z.union([
  z.strictObject({ removed: z.boolean() }),
  z.strictObject({ position: z.number().int().min(0).max(1000) }),
])

/**
 * Removes a look, brings it back, or gives it another place among those that are not removed (0 is the first). The last
 * one stays.
 * @returns the looks that there are
 */
export default route(
  { may: 'work', project: 'present', lock: 'holds', does: 'changed the list of looks' },
  async event => {
    const project = projectOf(event)
    const look = await lookInPath(event, project.id)
    const change = await body(event, schema)
    return write(async rows => {
      const there = await looksOf(rows, project.id)
      const shown = there.filter(l => l.removed === null)
      if ('removed' in change) {
        if (change.removed && shown.every(l => l.id === look.id))
          throw refuse(422, 'A project keeps one look at least; make another one first.')
        const removed = change.removed ? Date.now() : null
        await rows.update(looks).set({ removed }).where(eq(looks.id, look.id))
      } else {
        const others = shown.filter(l => l.id !== look.id)
        const order = [...others.slice(0, change.position), look, ...others.slice(change.position)]
        const behind = there.filter(l => l.removed !== null)
        for (const [position, { id }] of [...order, ...behind].entries())
          await rows.update(looks).set({ position }).where(eq(looks.id, id))
      }
      return { looks: await looksOf(rows, project.id) }
    })
  },
)
