import { useEventListener, useIntervalFn } from '@vueuse/core'
import * as z from 'zod'
import { THIS_WINDOW } from './drafts'
import { request } from '../shared/request'
import type { LookEntry } from './entries'

/** What windows on one project tell one another. */
const messageSchema = z.strictObject({
  window: z.string(),
  says: z.enum(['hello', 'here', 'gone', 'saved']),
  /** The look that is open there. */
  look: z.string(),
})

/** How often a window says that it is there, and when a silent one counts as gone, in milliseconds. */
const EVERY = 2000
const GONE = 6000
/** How often the server is asked who else has the project open, in milliseconds: they may be on other machines. */
const ASK_EVERY = 10_000

interface There {
  revision: number
  /** Whether the look or the mesh was saved since the newest revision that this window knows. */
  behind: boolean
  looks: LookEntry[]
  locked: number | null
  lockedBy: string | null
  others: { window: string; user: string }[]
}

/**
 * Knows whether the project is open in another window of this browser or elsewhere, by whom, and whether somebody has
 * saved.
 */
export function usePresence() {
  const project = useProject()
  const mine = THIS_WINDOW
  const others = ref<ReadonlyMap<string, number>>(new Map())
  const savedElsewhere = ref(false)
  /** Names of those who have it open, too; windows without a name are counted. */
  const people = ref<string[]>([])
  let channel: BroadcastChannel | undefined
  const say = (says: z.infer<typeof messageSchema>['says']): void =>
    channel?.postMessage({ window: mine, says, look: project.lookId })
  function leave(): void {
    say('gone')
    channel?.close()
    channel = undefined
    others.value = new Map()
    savedElsewhere.value = false
    people.value = []
  }
  watch(
    () => project.meta?.id,
    id => {
      leave()
      if (!id) return
      channel = new BroadcastChannel(`ubblet project ${id}`)
      channel.onmessage = ({ data }) => {
        const read = messageSchema.safeParse(data)
        if (!read.success) return
        const { window: other, says, look } = read.data
        const next = new Map(others.value)
        if (says === 'gone') next.delete(other)
        else next.set(other, Date.now())
        others.value = next
        if (says === 'hello') say('here')
        if (says === 'saved' && look === project.lookId) savedElsewhere.value = true
      }
      say('hello')
    },
    { immediate: true },
  )
  // What was saved elsewhere of one look is none of another's business; the mesh is, and the server tells.
  watch(
    () => project.lookId,
    () => {
      savedElsewhere.value = false
      say('here')
    },
  )
  watch(
    () => project.saveState,
    (now, before) => {
      if (now === 'saved' && before === 'saving') say('saved')
    },
  )
  async function ask(leaves = false): Promise<void> {
    const id = project.meta?.id
    const look = project.lookId
    if (!id) return
    const there = await request<There>(`/api/projects/${id}/presence`, {
      method: 'POST',
      json: { window: THIS_WINDOW, look, base: project.newest, ...(leaves && { leaves }) },
    }).catch(() => undefined)
    if (!there || project.meta?.id !== id) return
    const unnamed = there.others.filter(o => !o.user && !others.value.has(o.window)).length
    people.value = [...new Set(there.others.map(o => o.user).filter(Boolean)), ...(unnamed ? [`${unnamed} more`] : [])]
    project.heard(there)
    const later = there.behind && there.revision > project.newest && look === project.lookId
    if (later && project.saveState === 'saved' && !project.viewed) savedElsewhere.value = true
  }
  useIntervalFn(() => void ask(), ASK_EVERY)
  watch(
    () => project.meta?.id,
    id => {
      if (id) void ask()
    },
    { immediate: true },
  )
  useIntervalFn(() => {
    say('here')
    if ([...others.value.values()].some(t => Date.now() - t > GONE))
      others.value = new Map([...others.value].filter(([, t]) => Date.now() - t <= GONE))
  }, EVERY)
  const goes = (): void => {
    void ask(true)
    leave()
  }
  useEventListener(window, 'pagehide', goes)
  onBeforeUnmount(goes)
  return { others, people, savedElsewhere }
}
