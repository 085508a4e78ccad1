import { and, eq } from 'drizzle-orm'
import { tokens } from '../../../node/store/schema'
import { allow } from '../../utils/people'
import { refuse } from '../../utils/requests'
import { write } from '../../utils/store'

/** Ends a token of one's own. */
export default defineEventHandler(async event => {
  const { name = '' } = allow(event, 'look')
  const id = getRouterParam(event, 'id') ?? ''
  const [gone] = await write(rows =>
    rows
      .delete(tokens)
      .where(and(eq(tokens.id, id), eq(tokens.user, name)))
      .returning({ id: tokens.id }),
  )
  if (!gone) throw refuse(404, 'You have no such token.')
  return gone
})
