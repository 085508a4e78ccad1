import { randomUUID } from 'node:crypto'
import * as z from 'zod'
import { LookError, parseRecipe } from '#core/graph/look'
import { recipes } from '../../../node/store/schema'
import { body, refuse } from '../../utils/requests'
import { write } from '../../utils/store'
import { route } from '../../rights/route'

const LIMIT = 4 * 2 ** 20

/** Puts a recipe into the library. */
export default route({ may: 'work', does: 'kept a recipe' }, async event => {
  const { recipe } = await body(event, z.strictObject({ recipe: z.unknown() }), LIMIT)
  try {
    const checked = parseRecipe(recipe)
    const id = randomUUID()
    const saved = Date.now()
    await write(rows =>
      rows.insert(recipes).values({ id, title: checked.title, saved, recipe: JSON.stringify(checked) }),
    )
    return { id, saved, recipe: checked }
  } catch (error) {
    throw error instanceof LookError ? refuse(400, error.message) : error
  }
})
