import { moveNodes } from '#core/graph/edit'
import { aligned, distributed, type Edge as Side } from '#core/graph/handwork'
import type { LookNode } from '#core/graph/look'
import { tidied } from '#core/graph/tidy'

/**
 * Lays cards out: all or the selected ones tidily, or the selected ones in line and evenly spread.
 * @param chosen the selected nodes
 * @param sizes the size of a card on the canvas
 * @param fit brings the graph into view
 */
export function useArranging(
  chosen: Readonly<Ref<readonly LookNode[]>>,
  sizes: (id: string) => { width: number; height: number },
  fit: () => void,
) {
  const project = useProject()

  /** Lays the selected nodes out, or all of them. */
  function tidy(): void {
    const ids = chosen.value.length > 1 ? project.selected : project.page.nodes.map(n => n.id)
    project.editPage('Tidy', look => moveNodes(look, tidied(look, ids, sizes)))
    if (chosen.value.length < 2) nextTick(() => setTimeout(fit, 60))
  }
  const align = (side: Side): void =>
    project.editPage('Line up', look => moveNodes(look, aligned(chosen.value, side, sizes)))
  const distribute = (axis: 0 | 1): void =>
    project.editPage('Spread evenly', look => moveNodes(look, distributed(chosen.value, axis, sizes)))

  return { tidy, align, distribute }
}
