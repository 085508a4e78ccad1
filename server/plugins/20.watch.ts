import { randomBytes } from 'node:crypto'
import { meansApi, withinBase } from '../utils/addresses'
import { log } from '../utils/log'
import { measureRequest } from '../utils/metrics'

const starts = new WeakMap<object, number>()
const idSchema = /^[\w-]{6,64}$/

/** Gives every request an id, and writes down how each ended. */
export default defineNitroPlugin(nitro => {
  nitro.hooks.hook('request', event => {
    starts.set(event, performance.now())
    const given = getHeader(event, 'x-request-id')
    const isApi = meansApi(withinBase(event.path))
    event.context.requestId = given && idSchema.test(given) ? given : randomBytes(6).toString('hex')
    setResponseHeader(event, 'x-request-id', event.context.requestId)
    event.node.res.once('close', () => {
      const ms = performance.now() - (starts.get(event) ?? performance.now())
      const path = event.path.split('?')[0]!
      if (!isApi && !event.context.failure) return
      const { statusCode, writableFinished } = event.node.res
      const route = (event.context.matchedRoute as { path?: string } | undefined)?.path ?? 'other'
      measureRequest(event.method, route, writableFinished ? statusCode : 499, ms / 1000)
      const line = {
        request: event.context.requestId,
        method: event.method,
        path,
        status: writableFinished ? statusCode : 499,
        ms: Math.round(ms * 10) / 10,
        ...(event.context.person?.name && { user: event.context.person.name }),
        ...(event.context.failure && { failure: event.context.failure }),
      }
      if (statusCode >= 500) log.error(line, 'request')
      else if (statusCode >= 400) log.warn(line, 'request')
      else log.info(line, 'request')
    })
  })
})
