import { useEventListener } from '@vueuse/core'
import type { Ref } from 'vue'

/** A right button that moved farther than this while it was down has dragged, in pixels. */
const STILL = 4
/** Some systems ask for a menu when the button goes down, some just after it came up; in milliseconds. */
const AFTER = 250

/**
 * Tells a click of the right button from a drag, which moves what is seen: the browser asks for a context menu in both
 * cases. Only a click, or the keyboard, asks for one here.
 * @param target where clicks count; whatever else listens for a menu in there is left out
 * @param aim learns before it what is pointed at
 * @param asked what the menu belongs to, where that is not the target itself
 */
export function useRightClick(
  target: Readonly<Ref<HTMLElement | null>>,
  aim: (e: MouseEvent) => void | Promise<void>,
  asked = target,
): void {
  const ours = new WeakSet<Event>()
  let down: { x: number; y: number } | undefined
  let up = -Infinity

  useEventListener(
    target,
    'pointerdown',
    (e: PointerEvent) => {
      down = e.button === 2 ? { x: e.clientX, y: e.clientY } : undefined
    },
    { capture: true },
  )
  useEventListener(window, 'pointerup', async (e: PointerEvent) => {
    if (e.button !== 2 || !down) return
    const still = Math.hypot(e.clientX - down.x, e.clientY - down.y) <= STILL
    down = undefined
    up = performance.now()
    const at = document.elementFromPoint(e.clientX, e.clientY)
    if (!still || !at || !target.value?.contains(at)) return
    await aim(e)
    const { clientX, clientY } = e
    const asks = new MouseEvent('contextmenu', { bubbles: true, cancelable: true, button: 2, clientX, clientY })
    ours.add(asks)
    asked.value?.dispatchEvent(asks)
  })
  useEventListener(
    target,
    'contextmenu',
    (e: MouseEvent) => {
      if (ours.has(e)) return
      if (down || performance.now() - up < AFTER) {
        e.preventDefault()
        e.stopImmediatePropagation()
      } else void aim(e)
    },
    { capture: true },
  )
}
