import type { ShallowRef } from 'vue'
import { useEventListener, useResizeObserver } from '@vueuse/core'
import type { VueFlowStore } from '@vue-flow/core'

/** Room around a graph that is fitted: below it the tools stand. */
const AROUND = { top: '24px', right: '28px', bottom: '56px', left: '28px' } as const

/** Brings the graph into view: when asked, and as a whole when it is opened. */
export function useFitting(flow: VueFlowStore, holder: Readonly<ShallowRef<HTMLElement | null>>) {
  const project = useProject()

  function fit(): void {
    // Cards that have no size yet are left out: all is brought into view once they have.
    toFit ||= !flow.areNodesInitialized.value
    void flow.fitView({ padding: AROUND, duration: 0, maxZoom: 1.1 })
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
