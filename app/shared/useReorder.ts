import Sortable from 'sortablejs'
import { useSortable } from '@vueuse/integrations/useSortable'
import type { MaybeRefOrGetter } from 'vue'

/** How far a hand goes before it drags rather than clicks, in pixels. */
const TOLERANCE = 6
/** How long a finger rests before it drags rather than scrolls, in milliseconds. */
const REST = 200

/** What is drawn on an element that is dragged is not in its copy under the hand. */
function copyCanvases(item: HTMLElement): void {
  const copies = Sortable.ghost?.querySelectorAll('canvas') ?? []
  const drawn = item.querySelectorAll('canvas')
  copies.forEach((copy, i) => copy.getContext('2d')?.drawImage(drawn[i]!, 0, 0))
}

/**
 * Lets the children of a list be dragged into another order. The list itself is left as it was, for whoever holds the
 * order to draw it anew.
 * @param children a selector of those that can be dragged
 * @param moved is told the place that one had and the one that it goes to, both counted among those
 */
export function useReorder(
  list: MaybeRefOrGetter<HTMLElement | null>,
  children: string,
  moved: (from: number, to: number) => void,
): void {
  let after: Node | null = null
  useSortable(list, [], {
    watchElement: true,
    draggable: children,
    animation: 120,
    // By pointer events alone: the browser's own drag and drop is for files.
    forceFallback: true,
    fallbackTolerance: TOLERANCE,
    delay: REST,
    delayOnTouchOnly: true,
    filter: 'input',
    preventOnFilter: false,
    ghostClass: 'reordered',
    onStart: ({ item }) => {
      after = item.nextSibling
      copyCanvases(item)
    },
    onUpdate: ({ item, from, oldDraggableIndex, newDraggableIndex }) => {
      from.insertBefore(item, after)
      moved(oldDraggableIndex!, newDraggableIndex!)
    },
  })
}
