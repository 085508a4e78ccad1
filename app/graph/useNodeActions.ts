import type { VueFlowStore } from '@vue-flow/core'
import { clipOf, parseClip, paste as pasteClip } from '#core/graph/clip'
import { disconnect, duplicateNodes, removeNodes } from '#core/graph/edit'
import { addNote, CARD_HEIGHT, frameNodes, removeNotes } from '#core/graph/notes'
import { switchNodes } from '#core/graph/pass'
import { nodeOf } from '#core/graph/find'
import { echoWire, foldNodes, unfoldNode } from '#core/graph/recipe'
import { wireId } from './useCards'

/**
 * What is done with the selected cards, notes and wires.
 * @param selectedNotes the ids of the selected notes
 * @param middle a place in view for what is new
 */
export function useNodeActions(
  flow: VueFlowStore,
  selectedNotes: Readonly<Ref<string[]>>,
  middle: () => [number, number],
) {
  const project = useProject()
  const chosen = computed(() => project.page.nodes.filter(n => project.selected.includes(n.id)))

  function removeSelected(): void {
    const gone = flow.getSelectedEdges.value.map(e => e.id)
    const ids = [...project.selected]
    const wires = project.page.wires.filter(w => gone.includes(wireId(w)))
    project.editPage(ids.length || selectedNotes.value.length ? 'Remove' : 'Remove wire', look =>
      removeNotes(removeNodes(disconnect(look, wires), ids), selectedNotes.value),
    )
  }

  // The clipboard, as text: also to other looks and projects.
  const clip = (): string => JSON.stringify(clipOf(project.page, project.selected, selectedNotes.value))
  const copyable = computed(
    () => project.selected.some(id => nodeOf(project.page, id)?.kind !== 'result') || selectedNotes.value.length > 0,
  )
  /** Adds nodes from text. Answers with a sentence where there are none. */
  function paste(text: string): string | null {
    try {
      const clip = parseClip(text)
      let ids: string[] = []
      project.editPage('Paste', look => {
        const done = pasteClip(look, clip, middle())
        ids = done.ids
        return project.scope.length ? { ...done.look, notes: look.notes } : done.look
      })
      if (ids.length)
        nextTick(() => {
          project.selected = ids
        })
      return null
    } catch (error) {
      return (error as Error).message
    }
  }
  function toggle(): void {
    const off = chosen.value.some(n => !n.off && n.kind !== 'result')
    project.editPage(off ? 'Switch off' : 'Switch on', look => switchNodes(look, project.selected, off))
  }

  // Order: recipes, echoes, notes, frames.
  const selectedRecipes = computed(() => project.selected.filter(id => nodeOf(project.page, id)?.recipe))
  const foldable = computed(() =>
    project.selected.some(id => nodeOf(project.page, id) && nodeOf(project.page, id)!.kind !== 'result'),
  )
  function fold(): void {
    let id: string | undefined
    project.editPage('Fold into a recipe', look => {
      const folded = foldNodes(look, project.selected, 'Recipe')
      id = folded.id
      return folded.look
    })
    if (id)
      nextTick(() => {
        project.selected = [id!]
      })
  }
  function unfold(): void {
    const ids: string[] = []
    project.editPage('Unfold', look =>
      selectedRecipes.value.reduce((l, id) => {
        const open = unfoldNode(l, id)
        ids.push(...open.ids)
        return open.look
      }, look),
    )
    if (ids.length)
      nextTick(() => {
        project.selected = ids
      })
  }
  function echo(): void {
    const chosen = flow.getSelectedEdges.value.map(e => e.id)
    project.editPage('Echo', look => look.wires.filter(w => chosen.includes(wireId(w))).reduce(echoWire, look))
  }
  const write = (): void =>
    project.scope.length ? undefined : project.editPage('Add a note', look => addNote(look, middle()).look)
  const frame = (): void =>
    project.scope.length
      ? undefined
      : project.editPage(
          'Add a frame',
          look =>
            frameNodes(look, project.selected, middle(), id => flow.findNode(id)?.dimensions.height ?? CARD_HEIGHT)
              .look,
        )
  const someWires = computed(() => flow.getSelectedEdges.value.length > 0)
  function duplicate(): void {
    let copies: string[] = []
    project.editPage('Duplicate', look => {
      const done = duplicateNodes(look, project.selected)
      copies = done.ids
      return done.look
    })
    if (copies.length)
      nextTick(() => {
        project.selected = copies
      })
  }

  return {
    ...{ chosen, foldable, selectedRecipes, someWires, copyable },
    ...{ removeSelected, duplicate, toggle, clip, paste, fold, unfold, echo, write, frame },
  }
}
