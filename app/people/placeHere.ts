/** Any host does: it is only looked at whether an address leaves it. */
const HERE = 'http://here.invalid'

/**
 * A place of this application, as a path from its root. What a browser would take for an address of somebody else's
 * (`//evil`, `/\\evil`, with tabs in it, another scheme) becomes the home page.
 */
export function placeHere(asked: string): string {
  if (!asked.startsWith('/') || !URL.canParse(asked, HERE)) return '/'
  const { origin, pathname, search, hash } = new URL(asked, HERE)
  return origin === HERE && !pathname.startsWith('//') ? pathname + search + hash : '/'
}
