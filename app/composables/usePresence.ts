import { z } from 'zod'

/** What windows on one project tell one another. */
const messageSchema = z.strictObject({ window: z.string(), says: z.enum(['hello', 'here', 'gone', 'saved']) })

/** Knows whether the project is open in another window of this browser, and whether that one has saved. */
export function usePresence() {
  const project = useProject()
  const mine = Math.random().toString(36).slice(2), others = ref<ReadonlySet<string>>(new Set()), savedElsewhere = ref(false)
  let channel: BroadcastChannel | undefined
  const say = (says: z.infer<typeof messageSchema>['says']): void => channel?.postMessage({ window: mine, says })
  function leave(): void {
    say('gone')
    channel?.close()
    channel = undefined
    others.value = new Set()
    savedElsewhere.value = false
  }
  watch(() => project.meta?.id, (id) => {
    leave()
    if (!id) return
    channel = new BroadcastChannel(`ubblet project ${id}`)
    channel.onmessage = ({ data }) => {
      const read = messageSchema.safeParse(data)
      if (!read.success) return
      const { window: other, says } = read.data, next = new Set(others.value)
      if (says === 'gone') next.delete(other)
      else next.add(other)
      others.value = next
      if (says === 'hello') say('here')
      if (says === 'saved') savedElsewhere.value = true
    }
    say('hello')
  }, { immediate: true })
  watch(() => project.saveState, (now, before) => { if (now === 'saved' && before === 'saving') say('saved') })
  onBeforeUnmount(leave)
  return { others, savedElsewhere }
}
