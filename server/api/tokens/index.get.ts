import { asc, eq } from 'drizzle-orm'
import { tokens } from '../../../node/store/schema'
import { allow } from '../../utils/people'
import { useRows } from '../../utils/store'

/** The tokens of whoever asks, without what is secret of them. */
export default defineEventHandler(async event => {
  const { name = '' } = allow(event, 'look')
  return (await useRows())
    .select({ id: tokens.id, title: tokens.title, made: tokens.made, used: tokens.used })
    .from(tokens)
    .where(eq(tokens.user, name))
    .orderBy(asc(tokens.made))
})
