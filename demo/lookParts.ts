import type { LookNode, Wire } from '../core/graph/look'

/** A node at a place of the page, and a wire written `a.out > b.in`: what the demo looks are written with. */
export const node = (id: string, kind: string, at: [number, number], params: LookNode['params'] = {}, name?: string): LookNode =>
  ({ id, kind, at, params, ...(name && { name }) })
export const wire = (text: string): Wire => {
  const [from, to] = text.split(' > ').map(end => ({ node: end.split('.')[0]!, port: end.split('.')[1]! }))
  return { from: from!, to: to! }
}
