import type { ShallowRef } from 'vue'
import type { VueFlowStore } from '@vue-flow/core'
import { moveNodes } from '#core/graph/edit'
import { putInto } from '#core/graph/handwork'
import type { Wire } from '#core/graph/look'
import { changeNote, onFrame } from '#core/graph/notes'
import { isNote, noteId, noteOf } from './useCards'
import { wireAt } from './wireAt'

/**
 * Has cards and notes that are moved, by hand or by keys, written into the look.
 * @returns the wire that a dragged card would be put into
 */
export function useCardMoves(flow: VueFlowStore): Readonly<ShallowRef<Wire | null>> {
  const project = useProject()

  // A frame takes along what lies on it.
  let carried: { from: readonly [number, number]; with: Map<string, readonly [number, number]> } | undefined
  flow.onNodeDragStart(({ node, nodes: moving }) => {
    const frame = isNote(node.id) ? project.page.notes?.find(n => n.id === noteOf(node.id) && n.frame) : undefined
    if (!frame) return
    const { nodes: on, notes } = onFrame(project.page, frame.id)
    const known = new Set(moving.map(n => n.id))
    carried = {
      from: frame.at,
      with: new Map(
        [...on, ...notes.map(noteId)]
          .filter(id => !known.has(id))
          .map(id => [id, Object.values(flow.findNode(id)!.position) as [number, number]]),
      ),
    }
  })
  /** The wire that a dragged node would be put into: a node without wires of its own, held over one that it fits. */
  const over = shallowRef<Wire | null>(null)
  flow.onNodeDrag(({ node, event, nodes: moving }) => {
    const loose =
      moving.length === 1 &&
      !isNote(node.id) &&
      !project.page.wires.some(w => w.from.node === node.id || w.to.node === node.id)
    const found = loose && 'clientX' in event ? wireAt(project.page.wires, event.clientX, event.clientY) : undefined
    over.value = found && putInto(project.page, node.id, found) !== project.page ? found : null
    for (const [id, at] of carried?.with ?? [])
      flow.updateNode(id, {
        position: { x: at[0] + node.position.x - carried!.from[0], y: at[1] + node.position.y - carried!.from[1] },
      })
  })
  flow.onNodeDragStop(({ nodes: dragged }) => {
    const moved = [...dragged, ...[...(carried?.with.keys() ?? [])].map(id => flow.findNode(id)!)]
    carried = undefined
    if (over.value && dragged.length === 1) {
      const wire = over.value
      const { id, position } = dragged[0]!
      over.value = null
      project.editPage('Put into a wire', look =>
        putInto(moveNodes(look, new Map([[id, [Math.round(position.x), Math.round(position.y)]]])), id, wire),
      )
      return
    }
    place(
      moved.length > 1 ? 'Move nodes' : 'Move node',
      moved.map(n => [n.id, n.position]),
    )
  })
  /** Writes where cards and notes are now. */
  function place(label: string, moved: [string, { x: number; y: number }][], merge?: string): void {
    const at = new Map(moved.map(([id, p]) => [id, [Math.round(p.x), Math.round(p.y)] as [number, number]]))
    project.editPage(
      label,
      look =>
        [...at]
          .filter(([id]) => isNote(id))
          .reduce((l, [id, p]) => changeNote(l, noteOf(id), { at: p }), moveNodes(look, at)),
      merge,
    )
  }
  // The arrow keys move selected cards, too; steps in a row are one move to undo.
  flow.onNodesChange(changes => {
    const ids = changes.flatMap(c => (c.type === 'position' && !c.dragging && c.position ? [c.id] : []))
    if (!ids.length) return
    nextTick(() => {
      place(
        'Move by keys',
        ids.flatMap(id => {
          const at = flow.findNode(id)?.position
          return at ? [[id, at] as [string, { x: number; y: number }]] : []
        }),
        'move by keys',
      )
    })
  })

  return over
}
