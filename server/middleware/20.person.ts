import { personOf } from '../utils/people'

/** Finds out who asks. What they may, each route declares (`server/rights`). */
export default defineEventHandler(async event => {
  if (event.path.startsWith('/api/')) event.context.person = await personOf(event)
})
