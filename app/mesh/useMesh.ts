import { defineStore } from 'pinia'
import type { CageSurfaces } from '#core/dense/cage'
import type { MapReading } from '#core/mesh/mapReading'
import { evaluator } from '../shared/evaluation'
import type { Report } from '../shared/evaluate.worker'
import type { Level } from './levels'
import { useComputedMaps } from './useComputedMaps'
import { usePartSelection } from './usePartSelection'

/** What the stage shows on the Mesh tab. */
export type Shown =
  | { kind: 'level'; level: Level }
  | { kind: 'map'; name: string; component: number }
  /** One number of a surface map, by the name of its picture. */
  | { kind: 'surface'; name: string; component: number }
  /** How much of each part did not find the dense mesh, from 0 to 1. */
  | { kind: 'astray'; shares: Float32Array }
  /** Which parts have detail of the dense mesh: 1 for those without a partner. */
  | { kind: 'partners'; alone: Uint8Array }

/** The Mesh tab: what is selected, hidden and shown, and the geometry maps as they are computed. */
export const useMesh = defineStore('mesh', () => {
  const project = useProject()
  const selection = usePartSelection()
  const maps = useComputedMaps()
  const shown = shallowRef<Shown>({ kind: 'level', level: 'part' })
  const falseColors = ref(true)
  const flat = ref(false)
  const marks = ref(false)
  /** The cage of the dense mesh, while it is shown. */
  const cage = shallowRef<CageSurfaces>()
  /** Takes the parts that are clicked on the stage, while a set is picked by hand. */
  const pickInto = shallowRef<{ set: string; take: (part: number) => void } | null>(null)
  const report = shallowRef<Report>()
  const reading = shallowRef<MapReading | null>(null)
  const layout = shallowRef<Awaited<ReturnType<typeof evaluator.layout>>>(null)
  const problem = ref('')
  watch(
    () => project.opened,
    () => {
      layout.value = null
    },
  )

  /** The map on the stage: a rough one while the real one is on its way. */
  const shownMap = computed(() => {
    const s = shown.value
    if (s.kind !== 'map') return undefined
    const map = maps.previews.get(s.name) ?? project.tables?.mesh.maps.find(m => m.name === s.name)
    return map && s.component < map.components ? { map, component: s.component } : undefined
  })
  /** The surface map on the stage. */
  const shownSurface = computed(() => {
    const s = shown.value
    if (s.kind !== 'surface') return undefined
    const picture = project.pictures.find(p => p.name === s.name)
    return picture && { picture, component: s.component }
  })
  /** What is shown, over the whole surface. */
  async function read(s: Shown): Promise<MapReading | null> {
    if (s.kind === 'map') return evaluator.readMap(s.name, s.component)
    return s.kind === 'surface' ? evaluator.readSurface(s.name, s.component) : null
  }
  let asked = 0
  watch(
    [shown, () => project.tables],
    async () => {
      const mine = ++asked
      const next = await read(shown.value)
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
    ...selection,
    ...maps,
    ...{
      pickInto,
      shown,
      falseColors,
      flat,
      marks,
      report,
      reading,
      layout,
      problem,
      shownMap,
      shownSurface,
      span,
      cage,
    },
    ...{ loadReport, loadLayout },
  }
})
