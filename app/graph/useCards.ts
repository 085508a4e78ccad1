import type { Edge, Node, VueFlowStore } from '@vue-flow/core'
import { titleOf } from '#core/graph/check'
import type { Look, LookNode, Note, Wire } from '#core/graph/look'
import { betweenPieces } from '../stage/turns'

/** So many cards are made at once; of more, some at a time: each takes milliseconds, in which nothing else moves. */
const AT_ONCE = 48
const PIECE = 20

/** The name of a wire among the flow's edges, and of a note among its nodes. */
export const wireId = (w: Wire): string => `${w.from.node}/${w.from.port}>${w.to.node}/${w.to.port}`
const NOTE = 'note:'
export const noteId = (id: string): string => NOTE + id
export const isNote = (id: string): boolean => id.startsWith(NOTE)
/** The id of a note by its name in the flow. */
export const noteOf = (id: string): string => id.slice(NOTE.length)

/** What a change of the page can change of a card: its place, and what it is called. */
type Card = Pick<Node, 'id' | 'type' | 'position' | 'ariaLabel' | 'zIndex' | 'connectable'> & { id: string }

const nodeCard = (n: LookNode): Card => ({
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
const cardOf = (item: LookNode | Note): Card => ('kind' in item ? nodeCard(item) : noteCard(item))
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
 * every node and edge anew, which takes a page of 300 nodes a quarter of a second. Where many cards come at once, as
 * when a large look is opened, they come in pieces, and the first picture on the stage goes before the second piece.
 * @returns whether cards are still to come
 */
export function followPage(flow: VueFlowStore, page: () => Look): Readonly<Ref<boolean>> {
  let cards = new Map<string, LookNode | Note>()
  let wires = new Map<string, Wire>()
  const incomplete = ref(false)
  let current = 0

  /** Brings the flow nearer to a page. @returns whether something is still missing */
  function follow({ nodes, notes = [], wires: list }: Look): boolean {
    const wanted = new Map<string, LookNode | Note>([
      ...nodes.map(n => [n.id, n] as const),
      ...notes.map(n => [noteId(n.id), n] as const),
    ])
    const gone = [...cards.keys()].filter(id => !wanted.has(id))
    for (const [id, item] of wanted) if (cards.has(id) && cards.get(id) !== item) move(cardOf(item))
    const missing = [...wanted].filter(([id]) => !cards.has(id))
    const come = missing.length > (incomplete.value ? PIECE : AT_ONCE) ? missing.slice(0, PIECE) : missing
    const here = new Map([...wanted].filter(([id]) => cards.has(id)).concat(come))
    const wantedWires = new Map(list.map(w => [wireId(w), w]))
    const goneWires = [...wires.keys()].filter(id => !wantedWires.has(id))
    if (goneWires.length) flow.removeEdges(goneWires)
    if (gone.length) flow.removeNodes(gone, false)
    if (come.length) flow.addNodes(come.map(([, item]) => cardOf(item)))
    const joins = (w: Wire): boolean => here.has(w.from.node) && here.has(w.to.node)
    const ready = new Map([...wantedWires].filter(([, w]) => joins(w)))
    const newWires = [...ready].filter(([id]) => !wires.has(id)).map(([, w]) => edgeOf(w))
    if (newWires.length) flow.addEdges(newWires)
    cards = here
    wires = ready
    return come.length < missing.length
  }

  /** Until all of the page is there, or another one is. */
  async function followAll(): Promise<void> {
    const mine = ++current
    while (mine === current) {
      incomplete.value = follow(page())
      if (!incomplete.value) return
      await betweenPieces()
    }
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
  onMounted(() => watch(page, () => void followAll(), { immediate: true }))
  onBeforeUnmount(() => current++)
  return incomplete
}
