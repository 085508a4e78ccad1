import type { ShallowRef } from 'vue'
import { useEventListener, useResizeObserver } from '@vueuse/core'
import type { Rect, VueFlowStore } from '@vue-flow/core'
import { CARD_HEIGHT, CARD_WIDTH } from '#core/graph/notes'

/** Room around a graph that is fitted: below it the tools stand. */
const AROUND = { top: '24px', right: '28px', bottom: '56px', left: '28px' } as const

/** The rectangle of a page's cards, all of a usual size. */
function expected(places: readonly (readonly [number, number])[]): Rect {
  const [left, top] = [0, 1].map(k => Math.min(...places.map(p => p[k]!)))
  const [right, bottom] = [0, 1].map(k => Math.max(...places.map(p => p[k]!)))
  return { x: left!, y: top!, width: right! - left! + CARD_WIDTH, height: bottom! - top! + CARD_HEIGHT }
}

/**
 * Brings the graph into view: when asked, and as a whole when it is opened.
 * @param incomplete whether cards are still to come
 */
export function useFitting(
  flow: VueFlowStore,
  holder: Readonly<ShallowRef<HTMLElement | null>>,
  incomplete: Readonly<Ref<boolean>>,
) {
  const project = useProject()

  function fit(): void {
    // Cards that have no size yet are left out: all is brought into view once they have.
    toFit ||= incomplete.value || !flow.areNodesInitialized.value
    if (incomplete.value) void flow.fitBounds(expected(project.page.nodes.map(n => n.at)), { padding: AROUND })
    else void flow.fitView({ padding: AROUND, duration: 0, maxZoom: 1.1 })
  }

  /**
   * A whole graph comes into view when it is opened, and again while the screen around it still arranges itself; not
   * any more once hands are on it.
   */
  let toFit = true
  function fitOpened(): void {
    if (toFit && project.meta) fit()
  }
  useResizeObserver(holder, fitOpened)
  watch(
    () => project.lookId,
    () => {
      toFit = true
      void nextTick(() => setTimeout(fitOpened, 60))
    },
  )
  flow.onNodesInitialized(fitOpened)
  /** After it has become another graph: it comes into view as when it is opened. */
  function fitAnew(): void {
    toFit = true
    setTimeout(fitOpened, 60)
  }
  useEventListener(
    window,
    ['pointerdown', 'keydown', 'wheel'],
    () => {
      toFit = false
    },
    { capture: true, passive: true },
  )
  const fitSelection = (): void =>
    void (project.selected.length
      ? flow.fitView({ nodes: project.selected, padding: 0.3, duration: 0, maxZoom: 1.3 })
      : fit())

  return { fit, fitAnew, fitSelection }
}
