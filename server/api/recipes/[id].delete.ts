import { eq } from 'drizzle-orm'
import { recipes } from '../../../node/store/schema'
import { refuse } from '../../utils/requests'
import { write } from '../../utils/store'
import { route } from '../../rights/route'

export default route({ may: 'work', does: 'deleted a recipe' }, async event => {
  const id = getRouterParam(event, 'id') ?? ''
  const [gone] = await write(rows => rows.delete(recipes).where(eq(recipes.id, id)).returning({ id: recipes.id }))
  if (!gone) throw refuse(404, 'There is no such recipe in the library.')
  return gone
})
