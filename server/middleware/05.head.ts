/** Answers of the interface to programs are never a page, and are not kept unless they say so. */
export default defineEventHandler(event => {
  if (!event.path.startsWith('/api/')) return
  setResponseHeader(event, 'content-security-policy', `default-src 'none'; frame-ancestors 'none'; sandbox`)
  setResponseHeader(event, 'cache-control', 'no-store')
})
