import { defineStore } from 'pinia'
import { readLightAside } from '../deliver/tracePool'
import { request } from '../shared/request'

/** A picture of light. Without a hash it is not kept, and gone when the project is closed. */
export interface OwnLight {
  name: string
  hash?: string
}

/** The pictures of light of the open project: kept with it, and for the eyes alone. */
export const useLights = defineStore('lights', () => {
  const project = useProject()
  const looking = useLooking()
  const list = shallowRef<readonly OwnLight[]>([])
  /** What is going on, in words, and what went wrong. */
  const busy = ref('')
  const problem = ref('')

  const path = (rest = ''): string => `/api/projects/${project.meta!.id}/lights${rest}`
  watch(
    () => project.meta?.id,
    () => {
      list.value = []
      problem.value = ''
    },
  )

  /** Does one thing at a time, and says in a sentence why it could not be done. */
  async function attempt(what: string, act: () => Promise<void>): Promise<void> {
    busy.value = what
    problem.value = ''
    try {
      await act()
    } catch (error) {
      problem.value = (error as Error).message
    } finally {
      busy.value = ''
    }
  }

  async function show(name: string, bytes: ArrayBuffer): Promise<void> {
    looking.ownLight = { name, picture: await readLightAside(name, bytes) }
    looking.rig = 'own'
  }

  /** Finds out what the project keeps. */
  const load = (): Promise<void> =>
    attempt('Looking for your pictures', async () => {
      const { meta } = project
      if (!meta) return
      const kept = await request<OwnLight[]>(path())
      if (project.meta?.id === meta.id) list.value = [...kept, ...list.value.filter(l => !l.hash)]
    })

  /** Lights the stage by one that is kept. */
  const choose = ({ name, hash }: OwnLight): Promise<void> =>
    attempt(`Reading ${name}`, async () => {
      if (looking.ownLight?.name === name) looking.rig = 'own'
      else if (hash) await show(name, await request<ArrayBuffer>(path(`/${hash}`)))
    })

  /** Reads a file, lights the stage by it, and keeps it with the project where that may be changed. */
  const take = (file: File): Promise<void> =>
    attempt(`Reading ${file.name}`, async () => {
      await show(file.name, await file.arrayBuffer())
      const others = list.value.filter(l => l.name !== file.name)
      list.value = [...others, { name: file.name }]
      if (project.readOnly) return
      busy.value = `Keeping ${file.name}`
      const kept = await request<OwnLight>(path(`?name=${encodeURIComponent(file.name)}`), {
        method: 'PUT',
        bytes: file,
      })
      list.value = [...others, kept]
    })

  /** Takes one out of the project. */
  const remove = ({ name, hash }: OwnLight): Promise<void> =>
    attempt(`Removing ${name}`, async () => {
      if (hash) await request(path(`/${hash}`), { method: 'DELETE' })
      list.value = list.value.filter(l => l.name !== name)
      if (looking.ownLight?.name !== name) return
      if (looking.rig === 'own') looking.rig = 'overcast'
      looking.ownLight = undefined
    })

  return { list, busy, problem, load, choose, take, remove }
})
