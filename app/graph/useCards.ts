import type { Edge, Node, VueFlowStore } from '@vue-flow/core'
import { titleOf } from '#core/graph/check'
import type { Look, LookNode, Note, Wire } from '#core/graph/look'

/** The name of a wire among the flow's edges, and of a note among its nodes. */
export const wireId = (w: Wire): string => `${w.from.node}/${w.from.port}>${w.to.node}/${w.to.port}`
const NOTE = 'note:'
export const noteId = (id: string): string => NOTE + id
export const isNote = (id: string): boolean => id.startsWith(NOTE)
/** The id of a note by its name in the flow. */
export const noteOf = (id: string): string => id.slice(NOTE.length)

/** What a change of the page can change of a card: its place, and what it is called. */
type Card = Pick<Node, 'id' | 'type' | 'position' | 'ariaLabel' | 'zIndex' | 'connectable'> & { id: string }

const cardOf = (n: LookNode): Card => ({
  id: n.id,
  type: 'card',
  position: { x: n.at[0], y: n.at[1] },
  ariaLabel: titleOf(n),
})
/** Notes lie under cards, frames under notes. */
const noteCard = (n: Note): Card => ({
  id: noteId(n.id),
  type: 'note',
  position: { x: n.at[0], y: n.at[1] },
  zIndex: n.frame ? -2 : -1,
  connectable: false,
  ariaLabel: n.title || (n.frame ? 'Frame' : 'Note'),
})
const edgeOf = (w: Wire): Edge => ({
  id: wireId(w),
  type: 'wire',
  source: w.from.node,
  sourceHandle: w.from.port,
  target: w.to.node,
  targetHandle: w.to.port,
  ariaLabel: `Wire from ${w.from.node} to ${w.to.node}`,
})

/**
 * Has the flow hold the cards, notes and wires of a page. Only what differs is told to it: given a whole list, it makes
 * every node and edge anew, which takes a page of 300 nodes a quarter of a second.
 */
export function followPage(flow: VueFlowStore, page: () => Look): void {
  let cards = new Map<string, LookNode | Note>()
  let wires = new Map<string, Wire>()

  function follow({ nodes, notes = [], wires: list }: Look): void {
    const wanted = new Map<string, LookNode | Note>([
      ...nodes.map(n => [n.id, n] as const),
      ...notes.map(n => [noteId(n.id), n] as const),
    ])
    const wantedWires = new Map(list.map(w => [wireId(w), w]))
    const goneWires = [...wires.keys()].filter(id => !wantedWires.has(id))
    if (goneWires.length) flow.removeEdges(goneWires)
    const gone = [...cards.keys()].filter(id => !wanted.has(id))
    if (gone.length) flow.removeNodes(gone, false)

    const come: Card[] = []
    for (const [id, item] of wanted) {
      const before = cards.get(id)
      if (before === item) continue
      const card = 'kind' in item ? cardOf(item) : noteCard(item)
      if (before) move(card)
      else come.push(card)
    }
    if (come.length) flow.addNodes(come)
    const newWires = [...wantedWires].filter(([id]) => !wires.has(id)).map(([, w]) => edgeOf(w))
    if (newWires.length) flow.addEdges(newWires)

    cards = wanted
    wires = wantedWires
  }

  function move(card: Card): void {
    const node = flow.findNode(card.id)
    if (!node) return
    if (node.position.x !== card.position.x || node.position.y !== card.position.y)
      flow.updateNode(card.id, { position: card.position })
    if (node.ariaLabel !== card.ariaLabel || node.zIndex !== card.zIndex)
      flow.updateNode(card.id, { ariaLabel: card.ariaLabel, zIndex: card.zIndex })
  }

  // The flow takes changes once its component is there.
  onMounted(() => watch(page, follow, { immediate: true }))
}
