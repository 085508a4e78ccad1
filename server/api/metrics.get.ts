import { registry } from '../utils/metrics'

/** What Prometheus asks for. */
export default defineEventHandler(async event => {
  setResponseHeader(event, 'content-type', registry.contentType)
  return registry.metrics()
})
