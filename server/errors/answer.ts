import { FAULTS, StoreError, told } from '../../node/store/faults'
import { NO_PAGE } from '../utils/addresses'
import { log } from '../utils/log'

/**
 * How long a program had better wait before it tries again, in seconds, where the database is only held for a moment.
 */
const TRY_AGAIN = 2

/** Every error as JSON with one sentence. What nobody expected is logged whole, and says where to look. */
export default defineNitroErrorHandler(async (error, event) => {
  const known = told(error)
  const fault = known instanceof StoreError ? known.fault : undefined
  const expected = fault !== undefined || !error.unhandled
  const statusCode = fault ? FAULTS[fault] : error.statusCode || 500
  const id: unknown = event.context.requestId
  const unexpected = `Something went wrong on the server that should not have; its log says what${id ? ` (request ${String(id)})` : ''}.`
  if (!expected || fault === 'damaged') log.error({ err: error, request: id, path: event.path }, 'a request failed')
  const message = expected ? (known as Error).message : unexpected
  if (event.node.res.headersSent) {
    event.node.res.destroy()
    return
  }
  setResponseStatus(event, statusCode)
  setResponseHeader(event, 'content-type', 'application/json')
  setResponseHeader(event, 'cache-control', 'no-store')
  setResponseHeader(event, 'content-security-policy', NO_PAGE)
  removeResponseHeader(event, 'x-powered-by')
  if (fault === 'busy') setResponseHeader(event, 'retry-after', TRY_AGAIN)
  event.context.failure = message
  return send(
    event,
    JSON.stringify({
      statusCode,
      message,
      ...(fault && { fault }),
      ...(error.data !== undefined && { data: error.data }),
    }),
  )
})
