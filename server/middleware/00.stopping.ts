import { isStopping } from '../utils/lifecycle'
import { refuse } from '../utils/requests'

/** A server that stops takes no new work, also on connections that are still open. */
export default defineEventHandler(event => {
  if (!isStopping()) return
  setResponseHeader(event, 'connection', 'close')
  throw refuse(503, 'The server is stopping; it takes no new work.')
})
