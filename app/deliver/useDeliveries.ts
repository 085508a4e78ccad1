import { defineStore } from 'pinia'
import { settingsFor } from '#core/deliver/forLook'
import { DELIVERY_DEFAULTS, type DeliverySettings } from '#core/deliver/settings'
import { isSeen, PICTURE_LIMIT } from '#core/evaluate/pictures'
import { picturesOn } from '#core/exchange/lookFile'
import { parseLook, type Look } from '#core/graph/look'
import { request } from '../shared/request'

export interface Delivery {
  id: string
  name: string
  revision: number
  settings: DeliverySettings
  asked: number
  state: 'waiting' | 'running' | 'done' | 'failed' | 'canceled'
  message: string | null
  started: number | null
  ended: number | null
  bytes: number | null
  author: string | null
  share: number
  what: string
}
/** With its look, where that is known, and whether the look is still as it was delivered. */
export interface KnownDelivery extends Delivery {
  look: string | null
  current: boolean
}
export interface Preset {
  name: string
  settings: DeliverySettings
}

/** How often the list is asked for while something is made, in milliseconds. */
const ASK_EVERY = 500

/** The deliveries of the open project, which the server makes, and the settings for the next one. */
export const useDeliveries = defineStore('deliveries', () => {
  const project = useProject()
  const settings = ref<DeliverySettings>(structuredClone(DELIVERY_DEFAULTS))
  const list = shallowRef<Delivery[]>([])
  const presets = shallowRef<Preset[]>([])
  const failure = ref('')
  const asking = ref(false)
  /** The delivery whose proof is shown. */
  const proved = shallowRef<Delivery | null>(null)
  const under = (): string => `/api/projects/${project.meta!.id}/deliveries`
  const active = computed(() => list.value.some(d => d.state === 'waiting' || d.state === 'running'))

  let timer: ReturnType<typeof setTimeout> | undefined
  async function refresh(): Promise<void> {
    clearTimeout(timer)
    const id = project.meta?.id
    if (!id) return
    try {
      const next = await request<Delivery[]>(under())
      if (project.meta?.id !== id) return
      list.value = next
      if (failure.value === 'The server does not answer.') failure.value = ''
    } catch (error) {
      failure.value = (error as Error).message
    }
    if (active.value || failure.value === 'The server does not answer.')
      timer = setTimeout(() => void refresh(), active.value ? ASK_EVERY : ASK_EVERY * 6)
  }
  const know = (d: Delivery): Promise<KnownDelivery> => request(`${under()}/${d.id}`)
  const readPresets = async (): Promise<void> => {
    presets.value = await request<Preset[]>('/api/presets').catch(() => presets.value)
  }

  /**
   * The server's threads read PNG only, and as large as the stage shows them: other pictures go there as they were
   * decoded here.
   */
  async function sendDecoded(look: Look): Promise<void> {
    const wanted = new Set(picturesOn(look, project.preparation))
    if (!wanted.size) return
    const { id } = project.meta!
    for (const kept of await request<{ name: string; hash: string; decoded: string | null }[]>(
      `/api/projects/${id}/pictures`,
    )) {
      const picture = project.pictures.find(p => p.name === kept.name)
      if (
        !picture ||
        !isSeen(picture) ||
        kept.decoded ||
        !wanted.has(kept.name) ||
        (/\.png$/i.test(kept.name) && Math.max(picture.width, picture.height) < PICTURE_LIMIT)
      )
        continue
      const { encode } = await import('fast-png')
      const png = encode({
        width: picture.width,
        height: picture.height,
        data: Uint8Array.from(picture.data),
        channels: 4,
        depth: 8,
      })
      await request(`/api/projects/${id}/pictures/${kept.hash}/decoded`, { method: 'PUT', bytes: png.slice().buffer })
    }
  }

  /** The looks that are to leave, besides the open one. */
  const others = ref<string[]>([])
  /**
   * Asks for a delivery of the look as it is now, which is saved first, and for one of each of the others, in their
   * order.
   */
  async function deliver(): Promise<void> {
    failure.value = ''
    asking.value = true
    try {
      await project.saveNow()
      const at = `/api/projects/${project.meta!.id}`
      const leave = project.looks.filter(l => !l.removed && (l.id === project.lookId || others.value.includes(l.id)))
      for (const { id } of leave) {
        const own = id === project.lookId
        const look = own ? project.look : parseLook((await request<{ look: unknown }>(`${at}?look=${id}`)).look)
        // A variant that was forgotten since it was ticked is no longer asked for.
        const asked = settingsFor(look, settings.value)
        if (own) settings.value.variants = asked.variants
        await sendDecoded(look)
        const name = look.name || project.meta!.name || 'Look'
        const json = { name, look: id, settings: asked }
        const { revision } = await request<Delivery>(under(), { method: 'POST', json })
        if (own) project.setRevision(Math.max(revision, project.newest))
      }
      await refresh()
    } catch (error) {
      failure.value = (error as Error).message
    } finally {
      asking.value = false
    }
  }
  const act = async (path: string, method: string): Promise<void> => {
    failure.value = ''
    await request(`${under()}/${path}`, { method }).catch((error: Error) => {
      failure.value = error.message
    })
    await refresh()
  }
  const cancel = (d: Delivery): Promise<void> => act(`${d.id}/cancel`, 'POST')
  const again = (d: Delivery): Promise<void> => act(`${d.id}/again`, 'POST')
  async function remove(d: Delivery): Promise<void> {
    if (proved.value?.id === d.id) proved.value = null
    await act(d.id, 'DELETE')
  }
  /** Addresses on the server, without the path under which it may lie (`addressOf`). */
  const fileOf = (d: Delivery, path: string): string =>
    `${under()}/${d.id}/files/${path.split('/').map(encodeURIComponent).join('/')}`
  const zipOf = (d: Delivery): string => `${under()}/${d.id}/zip`

  async function keepPreset(name: string): Promise<void> {
    failure.value = ''
    await request('/api/presets', { method: 'PUT', json: { name, settings: settings.value } }).catch((error: Error) => {
      failure.value = error.message
    })
    await readPresets()
  }
  async function forgetPreset(name: string): Promise<void> {
    await request(`/api/presets?name=${encodeURIComponent(name)}`, { method: 'DELETE' }).catch((error: Error) => {
      failure.value = error.message
    })
    await readPresets()
  }

  watch(
    () => project.meta?.id,
    () => {
      clearTimeout(timer)
      list.value = []
      proved.value = null
      settings.value = structuredClone(DELIVERY_DEFAULTS)
      others.value = []
      if (project.meta) void refresh()
    },
    { immediate: true },
  )

  // What was chosen of one look may not be in another.
  watch(
    () => project.lookId,
    id => {
      others.value = others.value.filter(o => o !== id)
      settings.value = settingsFor(project.look, settings.value)
    },
  )

  return {
    settings,
    others,
    list,
    presets,
    failure,
    asking,
    active,
    proved,
    refresh,
    know,
    readPresets,
    deliver,
    cancel,
    again,
    remove,
    fileOf,
    zipOf,
    keepPreset,
    forgetPreset,
  }
})
