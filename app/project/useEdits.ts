import { differencesOf } from '#core/graph/differences'
import type { Look } from '#core/graph/look'
import { nodeOf } from '#core/graph/find'
import { changePage, leads, pageOf } from '#core/graph/scope'
import type { Preparation } from '#core/mesh/preparation'
import { preparationDifferences } from '#core/mesh/preparationDifferences'
import type { ProjectDocument } from './entries'
import { History } from './history'
import type { ProjectState } from './useProjectState'

/**
 * Edits of the open document, with the steps to go back over, and what of it is selected.
 * @param changed is told when the document has become another one
 */
export function useEdits({ document, look, preparation, readOnly }: ProjectState, changed: () => void) {
  /** The recipes that are open, one inside the other; the page on which the graph is, and what it changes. */
  const scope = shallowRef<readonly string[]>([])
  const page = computed(() => pageOf(document.value.look, scope.value))
  const selected = ref<string[]>([])
  /** The list of single parts that clicks on the stage add to. */
  const picking = shallowRef<{ node: string; param: string } | null>(null)
  let history = new History(document.value)
  /** Of the looks that were open before, by id. */
  const histories = new Map<string, History<ProjectDocument>>()
  /** Counts history's changes, so that what is shown of it follows. */
  const historyTick = ref(0)

  const undoLabel = computed(() => (historyTick.value >= 0 ? history.undoLabel : undefined))
  /** Every step since the project was opened, the oldest first, and the one that the document is at. */
  const steps = computed(() => (historyTick.value >= 0 ? history.labels : []))
  const step = computed(() => (historyTick.value >= 0 ? history.step : 0))
  /** What a step changed, one sentence each. */
  function wordsOf(step: number): string[] {
    const around = history.around(step)
    if (!around) return []
    const { before, after } = around
    const others = preparationDifferences(before.preparation, after.preparation)
    return [...differencesOf(before.look, after.look).map(d => d.words), ...others]
  }
  const redoLabel = computed(() => (historyTick.value >= 0 ? history.redoLabel : undefined))

  function show(next: ProjectDocument): void {
    document.value = next
    historyTick.value++
    if (!leads(next.look, scope.value)) scope.value = []
    if (selected.value.some(id => !nodeOf(page.value, id)))
      selected.value = selected.value.filter(id => nodeOf(page.value, id))
    changed()
  }

  /**
   * Makes an edit. `merge` names a gesture: edits with the same name that follow one another count as one step to undo,
   * until `settle` ends it.
   */
  function editDocument(label: string, change: (document: ProjectDocument) => ProjectDocument, merge?: string): void {
    if (readOnly.value) return
    const next = change(document.value)
    if (next === document.value || (next.look === look.value && next.preparation === preparation.value)) return
    history.push(next, label, merge)
    show(next)
  }
  const edit = (label: string, change: (look: Look) => Look, merge?: string): void =>
    editDocument(label, d => ({ ...d, look: change(d.look) }), merge)
  const editPage = (label: string, change: (page: Look) => Look, merge?: string): void =>
    edit(label, l => changePage(l, scope.value, change), merge)
  function enter(path: readonly string[]): void {
    selected.value = []
    picking.value = null
    scope.value = path
  }
  const prepare = (label: string, change: (preparation: Preparation) => Preparation, merge?: string): void =>
    editDocument(label, d => ({ ...d, preparation: change(d.preparation) }), merge)
  const settle = (): void => history.settle()
  function undo(): void {
    const back = history.undo()
    if (back) show(back)
  }
  function redo(): void {
    const forth = history.redo()
    if (forth) show(forth)
  }

  function jump(to: number): void {
    const there = history.jump(to)
    if (there) show(there)
  }

  /** Takes over a document that somebody else has saved, as a step. */
  function takeOver(next: ProjectDocument, label: string): void {
    history.push(next, label)
    show(next)
  }
  /** Lays the steps of the look that is open aside, for when it is turned to again. */
  function layAside(id: string): void {
    history.settle()
    histories.set(id, history)
    enter([])
  }
  /**
   * Shows a document as it is saved of a look: with the steps that were gone before, where it is still what they led
   * to. @returns the document as it is shown
   */
  function turnTo(id: string, read: ProjectDocument): ProjectDocument {
    const before = histories.get(id)
    const same = before && JSON.stringify(before.state.look) === JSON.stringify(read.look)
    history = same ? before : new History(read)
    if (JSON.stringify(history.state.preparation) !== JSON.stringify(read.preparation))
      history.push({ look: history.state.look, preparation: read.preparation }, 'Prepare the mesh, in another look')
    document.value = history.state
    historyTick.value++
    return history.state
  }
  /** Begins with nothing but a document, and no look before it. */
  function beginWith(first: ProjectDocument): void {
    enter([])
    histories.clear()
    document.value = first
    history = new History(first)
  }

  return {
    scope,
    page,
    selected,
    picking,
    undoLabel,
    redoLabel,
    steps,
    step,
    wordsOf,
    enter,
    editDocument,
    edit,
    editPage,
    prepare,
    settle,
    undo,
    redo,
    jump,
    takeOver,
    layAside,
    turnTo,
    beginWith,
  }
}
