import { useDebounceFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import { shallowReactive } from 'vue'
import { mapIdOf } from '#core/mesh/preparation'
import type { MapReading } from '#core/mesh/mapReading'
import { fitsMesh, type VertexMap } from '#core/mesh/mesh'
import { declarationOf, type MapSettings } from '#core/geometry/maps'
import { evaluator } from '../shared/evaluation'
import { GeometryPool } from './geometryPool'
import { keepMap, keptMap } from './keptMaps'
import type { Report } from '../shared/evaluate.worker'

export const LEVELS = ['object', 'group', 'part', 'patch'] as const
export type Level = (typeof LEVELS)[number]
/** What the stage shows on the Mesh tab. */
export type Shown = { kind: 'level'; level: Level } | { kind: 'map'; name: string; component: number }

/** How far a geometry map is. `remaining` in seconds, once it can be told. */
export interface MapState {
  state: 'ready' | 'waiting' | 'computing' | 'stopped' | 'failed'
  share: number
  remaining?: number
  message?: string
}

/** How far sides of parts of the same size may differ, as a share. */
const SAME_SIZE = 0.05
/** A pause after the last change before rays are cast, in milliseconds. */
const START_AFTER = 300

/** The Mesh tab: what is selected, hidden and shown, and the geometry maps as they are computed. */
export const useMesh = defineStore('mesh', () => {
  const project = useProject()
  const shown = shallowRef<Shown>({ kind: 'level', level: 'part' })
  const falseColors = ref(true)
  const flat = ref(false)
  const marks = ref(false)
  /** Takes the parts that are clicked on the stage, while a set is picked by hand. */
  const pickInto = shallowRef<{ set: string; take: (part: number) => void } | null>(null)
  const selected = shallowRef<ReadonlySet<number>>(new Set())
  const hidden = shallowRef<ReadonlySet<number>>(new Set())
  const pickLevel = ref<Exclude<Level, 'patch'>>('part')
  const report = shallowRef<Report>()
  const reading = shallowRef<MapReading | null>(null)
  const layout = shallowRef<Awaited<ReturnType<typeof evaluator.layout>>>(null)
  const pairs = shallowRef<Uint32Array>()
  const problem = ref('')
  const parts = computed(() => project.opened?.parts.parts ?? [])

  // --- Selection. Part numbers belong to one prepared mesh, so they are carried over by key.
  watch(
    () => project.opened,
    (now, before) => {
      pairs.value = undefined
      layout.value = null
      const keys = now && new Map(now.parts.parts.map((p, i) => [p.key, i]))
      const carry = (set: ReadonlySet<number>) =>
        new Set(
          [...set].flatMap(i => {
            const n = before && keys?.get(before.parts.parts[i]?.key ?? '')
            return n === undefined ? [] : [n]
          }),
        )
      selected.value = carry(selected.value)
      hidden.value = carry(hidden.value)
    },
  )
  watch(
    hidden,
    set => void evaluator.setHidden(set.size ? Uint8Array.from(parts.value, (_, i) => Number(set.has(i))) : null),
  )
  const select = (set: Iterable<number>): void => {
    selected.value = new Set(set)
  }
  const hide = (set: Iterable<number>): void => {
    hidden.value = new Set(set)
  }

  /** All parts of the same object or group as one of them, at the level at which is picked. */
  function widen(picked: Iterable<number>): Set<number> {
    const list = parts.value
    const level = pickLevel.value
    if (level === 'part') return new Set(picked)
    const wanted = new Set([...picked].map(i => list[i]![level]))
    return new Set(list.flatMap((p, i) => (wanted.has(p[level]) ? [i] : [])))
  }
  /** What a click or a box makes of the selection. */
  function choose(picked: Iterable<number>, how: 'only' | 'toggle' | 'add'): void {
    const wide = widen(picked)
    if (how === 'only') return select(wide)
    const next = new Set(selected.value)
    const drop = how === 'toggle' && [...wide].every(i => next.has(i))
    for (const i of wide) {
      if (drop) next.delete(i)
      else next.add(i)
    }
    select(next)
  }
  async function grow(): Promise<void> {
    if (!pairs.value) {
      const answer = await evaluator.touching()
      if ('error' in answer || !answer.ok) return
      pairs.value = answer.ok.pairs
      project.takeMeasures(answer.ok.arranged)
    }
    const next = new Set(selected.value)
    const p = pairs.value
    for (let i = 0; i < p.length; i += 2) {
      if (selected.value.has(p[i]!)) next.add(p[i + 1]!)
      if (selected.value.has(p[i + 1]!)) next.add(p[i]!)
    }
    select(next)
  }
  /**
   * Parts like one of the selected ones: of the same material, of its size to 5 % along each of its own axes, or named
   * alike but for digits.
   */
  function alike(by: 'material' | 'size' | 'name'): void {
    const list = parts.value
    const materials = project.arranged?.materials ?? []
    const stem = (name: string) => name.replace(/\d+/g, '#')
    const chosen = [...selected.value]
    const wanted = new Set(chosen.map(i => (by === 'material' ? materials[i] : stem(list[i]!.name))))
    const sides = project.arranged
      ? [project.arranged.measures.length, project.arranged.measures.width, project.arranged.measures.thickness]
      : []
    const near = (a: number, b: number) => Math.abs(a - b) <= SAME_SIZE * Math.max(a, b) + 1e-6
    // Few sizes are told apart among thousands of chosen parts, so that each part is compared with few.
    const sizes =
      by === 'size'
        ? [
            ...new Map(
              chosen.map(i => [sides.map(s => Math.round(Math.log(s[i]! + 1e-9) / SAME_SIZE)).join(), i]),
            ).values(),
          ]
        : []
    const sized = (i: number) => sizes.some(j => sides.every(s => near(s[i]!, s[j]!)))
    select(
      list.flatMap((p, i) =>
        (by === 'size' ? sized(i) : wanted.has(by === 'material' ? materials[i] : stem(p.name))) ? [i] : [],
      ),
    )
  }
  const invert = (): void => select(parts.value.flatMap((_, i) => (selected.value.has(i) ? [] : [i])))
  const isolate = (): void => hide(parts.value.flatMap((_, i) => (selected.value.has(i) ? [] : [i])))

  // --- Geometry maps.
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

  // --- What is shown.
  /** The map on the stage: a rough one while the real one is on its way. */
  const shownMap = computed(() => {
    const s = shown.value
    if (s.kind !== 'map') return undefined
    const map = previews.get(s.name) ?? project.tables?.mesh.maps.find(m => m.name === s.name)
    return map && s.component < map.components ? { map, component: s.component } : undefined
  })
  let asked = 0
  watch(
    [shown, () => project.tables],
    async () => {
      const s = shown.value
      const mine = ++asked
      const next = s.kind === 'map' ? await evaluator.readMap(s.name, s.component) : null
      if (mine === asked) reading.value = next
    },
    { immediate: true },
  )
  /** Ends of the legend: 0 and 1 for what lies between, else the lowest and highest value. */
  const span = computed<[number, number]>(() => {
    const r = reading.value
    return !r || (r.low >= 0 && r.high <= 1) ? [0, 1] : [r.low, r.high]
  })

  async function loadReport(): Promise<void> {
    const answer = await evaluator.report()
    if ('error' in answer) problem.value = answer.error
    else report.value = answer.ok ?? undefined
  }
  async function loadLayout(): Promise<void> {
    layout.value ??= await evaluator.layout()
  }

  return {
    pickInto,
    shown,
    falseColors,
    flat,
    marks,
    selected,
    hidden,
    pickLevel,
    report,
    reading,
    layout,
    problem,
    parts,
    states,
    previews,
    computing,
    shownMap,
    span,
    select,
    hide,
    choose,
    grow,
    alike,
    invert,
    isolate,
    stopMap,
    startMap,
    loadReport,
    loadLayout,
  }
})
