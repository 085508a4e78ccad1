import { graphlib, layout } from '@dagrejs/dagre'
import type { Sizes } from './handwork'
import { linksOf } from './ports'
import type { Look } from './look'

/**
 * Places for nodes in columns from source to result, crossing little; the box around them keeps its upper left corner.
 */
export function tidied(look: Look, ids: readonly string[], sizes: Sizes): Map<string, [number, number]> {
  const nodes = look.nodes.filter(n => ids.includes(n.id))
  const inside = new Set(nodes.map(n => n.id))
  if (nodes.length < 2) return new Map()
  const graph = new graphlib.Graph()
  graph.setGraph({ rankdir: 'LR', nodesep: 22, ranksep: 48, ranker: 'network-simplex' })
  graph.setDefaultEdgeLabel(() => ({}))
  for (const n of nodes) graph.setNode(n.id, { ...sizes(n.id) })
  for (const w of linksOf(look))
    if (inside.has(w.from.node) && inside.has(w.to.node)) graph.setEdge(w.from.node, w.to.node)
  layout(graph)
  const corners = nodes.map((n): [string, number, number] => {
    const { x, y, width, height } = graph.node(n.id) as { x: number; y: number; width: number; height: number }
    return [n.id, x - width / 2, y - height / 2]
  })
  const shift = [0, 1].map(
    k => Math.min(...nodes.map(n => n.at[k]!)) - Math.min(...corners.map(c => c[k + 1] as number)),
  )
  return new Map(corners.map(([id, x, y]) => [id, [Math.round(x + shift[0]!) + 0, Math.round(y + shift[1]!) + 0]]))
}
