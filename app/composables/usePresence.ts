import { useEventListener, useIntervalFn } from '@vueuse/core'
import { z } from 'zod'

/** What windows on one project tell one another. */
const messageSchema = z.strictObject({ window: z.string(), says: z.enum(['hello', 'here', 'gone', 'saved']) })

/** How often a window says that it is there, and when a silent one counts as gone, in milliseconds. */
const EVERY = 2000, GONE = 6000

/** Knows whether the project is open in another window of this browser, and whether that one has saved. */
export function usePresence() {
  const project = useProject()
  const mine = Math.random().toString(36).slice(2), others = ref<ReadonlyMap<string, number>>(new Map()), savedElsewhere = ref(false)
  let channel: BroadcastChannel | undefined
  const say = (says: z.infer<typeof messageSchema>['says']): void => channel?.postMessage({ window: mine, says })
  function leave(): void {
    say('gone')
    channel?.close()
    channel = undefined
    others.value = new Map()
    savedElsewhere.value = false
  }
  watch(() => project.meta?.id, (id) => {
    leave()
    if (!id) return
    channel = new BroadcastChannel(`ubblet project ${id}`)
    channel.onmessage = ({ data }) => {
      const read = messageSchema.safeParse(data)
      if (!read.success) return
      const { window: other, says } = read.data, next = new Map(others.value)
      if (says === 'gone') next.delete(other)
      else next.set(other, Date.now())
      others.value = next
      if (says === 'hello') say('here')
      if (says === 'saved') savedElsewhere.value = true
    }
    say('hello')
  }, { immediate: true })
  watch(() => project.saveState, (now, before) => { if (now === 'saved' && before === 'saving') say('saved') })
  useIntervalFn(() => {
    say('here')
    if ([...others.value.values()].some(t => Date.now() - t > GONE)) others.value = new Map([...others.value].filter(([, t]) => Date.now() - t <= GONE))
  }, EVERY)
  useEventListener(window, 'pagehide', leave)
  onBeforeUnmount(leave)
  return { others, savedElsewhere }
}
