import type { VueFlowStore } from '@vue-flow/core'
import { isNote, noteOf } from './useCards'

/** Keeps what is selected among the cards and in the project the same, both ways. @returns the selected notes */
export function useCardSelection(flow: VueFlowStore): Ref<string[]> {
  const project = useProject()
  const selectedNotes = ref<string[]>([])
  let selecting = false
  flow.onNodesChange(changes => {
    if (!selecting && changes.some(c => c.type === 'select')) {
      nextTick(() => {
        if (selecting) return
        const all = flow.getSelectedNodes.value.map(n => n.id)
        const ids = all.filter(id => !isNote(id))
        selectedNotes.value = all.filter(isNote).map(noteOf)
        if (ids.join() !== project.selected.join()) project.selected = ids
      })
    }
  })
  watch(
    () => project.selected,
    async ids => {
      // What was just added is not among the cards yet.
      if (ids.some(id => !flow.findNode(id))) await nextTick()
      if (ids !== project.selected) return
      if (
        ids.join() ===
        flow.getSelectedNodes.value
          .map(n => n.id)
          .filter(id => !isNote(id))
          .join()
      )
        return
      selecting = true
      flow.removeSelectedNodes(flow.getSelectedNodes.value)
      flow.addSelectedNodes(flow.getNodes.value.filter(n => ids.includes(n.id)))
      await nextTick()
      await nextTick()
      selecting = false
    },
  )
  return selectedNotes
}
