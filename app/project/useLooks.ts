import { request } from '../shared/request'
import type { LookEntry } from './entries'

/** The looks of the open project: adding, ordering and removing them, and going from one to another. */
export function useLooks() {
  const project = useProject()
  const toast = useToast()
  const problem = ref('')
  /** Those that are there, in their order; the open one is called what it is called now. */
  const shown = computed(() =>
    project.looks
      .filter(l => l.removed === null)
      .map(l => (l.id === project.lookId ? { ...l, name: project.look.name.trim() || 'Look' } : l)),
  )
  const removed = computed(() => project.looks.filter(l => l.removed !== null))
  const under = (): string => `/api/projects/${project.meta!.id}/looks`

  /** Does something that may fail with a sentence. */
  async function act(work: () => Promise<unknown>): Promise<void> {
    problem.value = ''
    await work().catch((error: Error) => {
      problem.value = error.message
    })
  }
  async function change(look: LookEntry, to: { removed: boolean } | { position: number }): Promise<void> {
    const answer = await request<{ looks: LookEntry[] }>(`${under()}/${look.id}`, { method: 'PATCH', json: to })
    project.looks = answer.looks
  }

  /** Shows a look; the page follows the address. */
  const show = (id: string) => navigateTo({ path: `/project/${project.meta!.id}`, query: { look: id } })
  /** Shows the look so many places further, around the end. */
  const step = (by: number) => {
    const at = shown.value.findIndex(l => l.id === project.lookId)
    const next = shown.value.at((at + by + shown.value.length) % shown.value.length)
    return next && show(next.id)
  }

  /** Adds a look, empty or a copy of another, and shows it. */
  const add = (name: string, from?: string) =>
    act(async () => {
      await project.saveNow()
      const made = await request<{ id: string; looks: LookEntry[] }>(under(), {
        method: 'POST',
        json: { name: name.slice(0, 120), ...(from && { from }) },
      })
      project.looks = made.looks
      await show(made.id)
    })
  /** A name that no look of the project has yet. */
  function freeName(base: string): string {
    const names = new Set(project.looks.map(l => l.name))
    for (let i = 2; ; i++) if (!names.has(`${base} ${i}`)) return `${base} ${i}`
  }
  const addEmpty = () => add(freeName('Look'))
  const duplicate = (look: LookEntry) => add(freeName(look.name.replace(/ \d+$/, '')), look.id)

  /** Gives a look another place, `by` further. */
  const move = (look: LookEntry, by: number) =>
    act(() => change(look, { position: Math.max(0, shown.value.findIndex(l => l.id === look.id) + by) }))
  const bringBack = (look: LookEntry) => act(() => change(look, { removed: false }))
  /** Removes a look, which can be brought back; another is shown where it was the open one. */
  const remove = (look: LookEntry) =>
    act(async () => {
      const others = shown.value.filter(l => l.id !== look.id)
      if (look.id === project.lookId) await project.saveNow()
      await change(look, { removed: true })
      if (look.id === project.lookId && others[0]) await show(others[0].id)
      toast.add({
        title: `"${look.name}" was removed`,
        description: 'It can be brought back from the list of looks for 30 days.',
        actions: [{ label: 'Bring it back', onClick: () => void bringBack(look) }],
      })
    })

  return { shown, removed, problem, show, step, addEmpty, duplicate, move, remove, bringBack }
}
