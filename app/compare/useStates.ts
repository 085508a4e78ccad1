import { useAsyncState } from '@vueuse/core'
import { withVariant } from '#core/graph/variants'
import { parseLook, type Look } from '#core/graph/look'
import { request } from '../shared/request'
import { when } from '../shared/when'
import type { JudgedTile } from './useSheet'

/** A state of the project that can stand on a sheet. */
export interface SheetState {
  /** Tells it from the others: `variant NAME`, `look ID`, `revision NUMBER` or `kept`. */
  id: string
  title: string
  group: (typeof STATE_GROUPS)[number]
}
export const STATE_GROUPS = ['Variants', 'Looks', 'Kept beside', 'Saved revisions'] as const
/** As many revisions are offered. */
const REVISIONS = 40

interface Revision {
  number: number
  saved: number
  name: string | null
}

/** Variants, looks, saved revisions and the state kept beside the look, in any mixture, as tiles of a sheet. */
export function useStates() {
  const project = useProject()
  const looking = useLooking()
  const at = (): string => `/api/projects/${project.meta?.id}`
  const revisions = useAsyncState(
    () =>
      project.meta ? request<Revision[]>(`${at()}/revisions?look=${project.lookId}`) : Promise.resolve<Revision[]>([]),
    [],
    { immediate: false, resetOnExecute: false },
  )
  /** All that can be chosen. */
  const states = computed<SheetState[]>(() => [
    ...(project.look.variants ?? []).map(v => ({
      id: `variant ${v.name}`,
      title: v.name,
      group: 'Variants' as const,
    })),
    ...project.looks
      .filter(l => l.removed === null && l.id !== project.lookId)
      .map(l => ({ id: `look ${l.id}`, title: l.name, group: 'Looks' as const })),
    ...(looking.kept ? [{ id: 'kept', title: 'Kept beside', group: 'Kept beside' as const }] : []),
    // The newest is the look as it is.
    ...revisions.state.value.slice(1, REVISIONS + 1).map(r => ({
      id: `revision ${r.number}`,
      title: r.name ?? `Revision ${r.number}, ${when(r.saved)}`,
      group: 'Saved revisions' as const,
    })),
  ])
  /** Counts what was kept beside the look: another state is another tile. */
  const keeps = ref(0)
  watch(
    () => looking.kept,
    () => keeps.value++,
  )
  /** What was chosen; nothing where nobody has chosen yet: then it is all variants and looks. */
  const picked = ref<string[] | null>(null)
  const chosen = computed(() => {
    const { value } = picked
    return states.value.filter(s => (value ? value.includes(s.id) : s.group === 'Variants' || s.group === 'Looks'))
  })
  function toggle(id: string): void {
    const now = chosen.value.map(s => s.id)
    picked.value = now.includes(id) ? now.filter(x => x !== id) : [...now, id]
  }

  /** Looks that were fetched, by the id of their state; a sentence where one could not be. */
  const fetched = shallowRef(new Map<string, Look | string>())
  async function fetchState(id: string, path: string): Promise<void> {
    const read = await request<{ look: unknown }>(path).then(
      found => parseLook(found.look),
      (error: Error) => error.message,
    )
    fetched.value = new Map([...fetched.value, [id, read]])
  }
  const asked = new Set<string>()
  /** Fetches what of the chosen states is not here yet. */
  function fetchChosen(): void {
    for (const { id } of chosen.value) {
      const [kind, what] = id.split(' ')
      if (asked.has(id) || (kind !== 'look' && kind !== 'revision')) continue
      asked.add(id)
      void fetchState(id, `${at()}?${kind}=${what}`)
    }
  }
  function forget(): void {
    asked.clear()
    fetched.value = new Map()
    picked.value = null
    revisions.state.value = []
  }

  const tiles = computed<JudgedTile[]>(() =>
    chosen.value.flatMap(({ id, title, group }) => {
      const variant = project.look.variants?.find(v => id === `variant ${v.name}`)
      if (variant) return [{ id, title, of: (now: Look) => withVariant(now, variant) }]
      const look = id === 'kept' ? looking.kept : fetched.value.get(id)
      if (!look || typeof look === 'string') return []
      const tile = id === 'kept' ? `kept ${keeps.value}` : id
      return [{ id: tile, title, of: () => look, ...(group === 'Looks' && { opens: id.slice('look '.length) }) }]
    }),
  )
  const problem = computed(() => chosen.value.map(s => fetched.value.get(s.id)).find(x => typeof x === 'string') ?? '')

  return { states, chosen, picked, toggle, tiles, problem, fetchChosen, listRevisions: revisions.execute, forget }
}
