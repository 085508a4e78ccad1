import { handlers } from '#nitro-internal-virtual/server-handlers'
import { meansApi } from '../utils/addresses'
import { refuse } from '../utils/requests'

interface Route {
  pattern: RegExp
  methods: Set<string>
}
let routes: Route[] | undefined

/** Every address of the interface to programs, with its methods. */
function listed(): Route[] {
  const methods = new Map<string, Set<string>>()
  for (const { route, method } of handlers) {
    if (!route?.startsWith('/api/') || !method) continue
    methods.set(route, new Set([...(methods.get(route) ?? []), method.toUpperCase()]))
  }
  return [...methods].map(([route, own]) => {
    const pattern = route
      .replace(/[.+?^${}()|[\]\\]/g, '\\$&')
      .replace(/\*\*(:\w+)?/g, '.+')
      .replace(/:\w+/g, '[^/]+')
    return { pattern: new RegExp(`^${pattern}$`), methods: own }
  })
}

/** What is not there is said so, in JSON like everything else; and what is there, but not by this method. */
export default defineEventHandler(event => {
  if (!event.path.startsWith('/api/')) {
    if (meansApi(event.path)) throw refuse(404, 'There is nothing at this address.')
    return
  }
  routes ??= listed()
  const path = event.path.split('?')[0]!
  const known = new Set(routes.filter(r => r.pattern.test(path)).flatMap(r => [...r.methods]))
  if (!known.size) throw refuse(404, 'There is nothing at this address.')
  const method = event.method === 'HEAD' ? 'GET' : event.method
  if (known.has(method)) return
  setResponseHeader(event, 'allow', [...known].join(', '))
  throw refuse(405, `This address takes ${[...known].join(' and ')}, not ${event.method}.`)
})
