import { useDebounceFn } from '@vueuse/core'
import { shallowReactive } from 'vue'
import { declarationOf, type MapSettings } from '#core/geometry/maps'
import { fitsMesh, type VertexMap } from '#core/mesh/mesh'
import { mapIdOf } from '#core/mesh/preparation'
import { GeometryPool } from './geometryPool'
import { keepMap, keptMap } from './keptMaps'

/** How far a geometry map is. `remaining` in seconds, once it can be told. */
export interface MapState {
  state: 'ready' | 'waiting' | 'computing' | 'stopped' | 'failed'
  share: number
  remaining?: number
  message?: string
}

/** A pause after the last change before rays are cast, in milliseconds. */
const START_AFTER = 300

/** The geometry maps of the preparation, as they are fetched and computed. */
export function useComputedMaps() {
  const project = useProject()
  const pool = new GeometryPool()
  const cache = new Map<string, VertexMap>()
  const states = shallowReactive(new Map<string, MapState>())
  const previews = shallowReactive(new Map<string, VertexMap>())
  const stopped = new Set<string>()
  let running: { id: string; name: string } | undefined
  let loadedFor: { opened: unknown; arranged: unknown } | undefined

  const idOf = (settings: MapSettings): string => mapIdOf(String(project.meta?.mesh?.hash), project.prepared, settings)

  /** Makes the maps that are ready part of the mesh. */
  async function publish(): Promise<void> {
    const ready = project.preparation.maps.flatMap(s => {
      const known = cache.get(idOf(s))
      return known && project.opened && fitsMesh(project.opened.mesh, known) ? [{ ...known, name: s.name }] : []
    })
    await project.setComputed(ready)
  }

  async function sync(): Promise<void> {
    const { opened } = project
    const wanted = project.preparation.maps
    for (const name of states.keys())
      if (!wanted.some(s => s.name === name)) {
        states.delete(name)
        previews.delete(name)
      }
    if (!opened) return
    // A job that nobody waits for any more gives way.
    if (running && !wanted.some(s => idOf(s) === running!.id)) pool.stop()
    for (const settings of wanted) {
      const id = idOf(settings)
      if (running?.id === id) continue
      if (cache.has(id)) states.set(settings.name, { state: 'ready', share: 1 })
      else states.set(settings.name, { state: stopped.has(id) ? 'stopped' : 'waiting', share: 0 })
    }
    await fetchKept(wanted)
    await publish()
    startSoon()
  }

  /** Maps that were computed before: the server has them. */
  async function fetchKept(wanted: readonly MapSettings[]): Promise<void> {
    const missing = wanted.filter(s => !cache.has(idOf(s)))
    await Promise.all(
      missing.map(async settings => {
        const id = idOf(settings)
        const map = await keptMap(id, settings)
        if (!map || !project.opened || !fitsMesh(project.opened.mesh, map)) return
        cache.set(id, map)
        states.set(settings.name, { state: 'ready', share: 1 })
      }),
    )
  }

  const startSoon = useDebounceFn(() => void work(), START_AFTER)

  /** Fetches or computes what is missing, one map after the other. */
  async function work(): Promise<void> {
    while (!running && project.opened) {
      const settings = project.preparation.maps.find(s => {
        const id = idOf(s)
        return !cache.has(id) && !stopped.has(id)
      })
      if (!settings) return
      const id = idOf(settings)
      const { opened } = project
      running = { id, name: settings.name }
      try {
        await fetchKept([settings])
        if (!cache.has(id)) await compute(settings, id, opened)
      } catch (error) {
        stopped.add(id)
        states.set(settings.name, { state: 'failed', share: 0, message: (error as Error).message })
      }
      running = undefined
      previews.delete(settings.name)
      if (cache.has(id)) {
        states.set(settings.name, { state: 'ready', share: 1 })
        await publish()
      }
    }
  }
  async function compute(settings: MapSettings, id: string, opened: typeof project.opened): Promise<void> {
    const { arranged } = project
    const byGroup = declarationOf(settings).byGroups?.(settings) ?? false
    if (loadedFor?.opened !== opened || (byGroup && loadedFor?.arranged !== arranged)) {
      pool.load(opened!.mesh, opened!.parts)
      loadedFor = { opened, arranged }
    }
    const begun = performance.now()
    states.set(settings.name, { state: 'computing', share: 0 })
    const map = await pool.compute(settings, {
      progress(share) {
        const spent = (performance.now() - begun) / 1000
        states.set(settings.name, {
          state: 'computing',
          share,
          ...(share > 0.03 && spent > 0.5 && { remaining: (spent * (1 - share)) / share }),
        })
      },
      preview(values) {
        previews.set(settings.name, { name: settings.name, components: 1, values })
      },
    })
    if (!map) {
      states.set(settings.name, { state: stopped.has(id) ? 'stopped' : 'waiting', share: 0 })
      return
    }
    cache.set(id, map)
    keepMap(id, map)
  }
  function stopMap(name: string): void {
    const settings = project.preparation.maps.find(s => s.name === name)
    if (!settings) return
    stopped.add(idOf(settings))
    states.set(name, { state: 'stopped', share: 0 })
    if (running?.name === name) {
      pool.stop()
      loadedFor = undefined
    }
  }
  function startMap(name: string): void {
    const settings = project.preparation.maps.find(s => s.name === name)
    if (!settings) return
    stopped.delete(idOf(settings))
    states.set(name, { state: 'waiting', share: 0 })
    void work()
  }
  watch([() => project.opened, () => project.prepared, () => project.preparation], () => void sync(), {
    immediate: true,
  })
  const computing = computed((): string | undefined => {
    const busy = [...states].find(([, s]) => s.state === 'computing')
    return busy ? `Computing ${busy[0]}, ${Math.round(busy[1].share * 100)} %` : undefined
  })

  return { states, previews, computing, stopMap, startMap }
}
