import { registry } from '../utils/metrics'
import { route } from '../rights/route'

/** What Prometheus asks for. */
export default route({ may: 'look' }, async event => {
  setResponseHeader(event, 'content-type', registry.contentType)
  return registry.metrics()
})
