import type { Ref } from 'vue'

/** So far outside the window something already counts as in view, in pixels. */
const AHEAD = 200

const watched = new Map<Element, Ref<boolean>>()
let observer: IntersectionObserver | undefined

/** Whether an element can be seen: one observer for all of them. */
export function useInView(element: Readonly<Ref<Element | null>>): Readonly<Ref<boolean>> {
  const inView = ref(false)
  watch(
    element,
    (now, before) => {
      observer ??= new IntersectionObserver(
        entries => {
          for (const { target, isIntersecting } of entries) {
            const own = watched.get(target)
            if (own) own.value = isIntersecting
          }
        },
        { rootMargin: `${AHEAD}px` },
      )
      if (before) leave(before)
      if (!now) return
      watched.set(now, inView)
      observer.observe(now)
    },
    { flush: 'post', immediate: true },
  )
  onBeforeUnmount(() => {
    if (element.value) leave(element.value)
  })
  return inView
}

function leave(element: Element): void {
  observer?.unobserve(element)
  watched.delete(element)
}
