import { useDebounceFn } from '@vueuse/core'
import * as Comlink from 'comlink'
import { defineStore } from 'pinia'
import { toRaw } from 'vue'
import type { MatchBy } from '#core/dense/partners'
import { denseSetupSchema, type DenseSetup } from '#core/dense/setup'
import type { DetailKind } from '#core/dense/take'
import { apart, otherUnits } from '#core/dense/units'
import { boxOf } from '#core/evaluate/tables'
import type { Box, Mesh } from '#core/mesh/mesh'
import { Crew } from '../shared/crew'
import { oneFile } from '../shared/oneFile'
import { request } from '../shared/request'
import type { DenseApi, DenseSummary, Matched } from './dense.worker'

/** A dense mesh that is read. */
interface Dense extends DenseSummary {
  name: string
}
/** The dense mesh that the project keeps. */
interface Kept {
  name: string
  hash: string
  setup: DenseSetup | null
}
/** What the worker answers: what was asked for, or a sentence. */
type Answer<T> = { ok: T } | { error: string }
/** How far the work is; `remaining` in seconds, once it can be told. */
interface Going {
  what: string
  share: number
  remaining?: number
}
type Progress = (share: number, what: string) => void

/** How long settings rest before they are kept, and parts are matched anew, in milliseconds. */
const RESTS = 400
/** A cage before any was chosen, in meters, as a share of the mesh's diagonal. */
const CAGE_SHARE = 0.01

const beginning = () => ({
  match: 'part' as MatchBy,
  outward: 0,
  inward: 0,
  cages: {} as DenseSetup['cages'],
  /** The vertex map that every cage is multiplied by; none where it is empty. */
  cageMap: '',
  /** Parts of the dense mesh that were given away by hand, by key. */
  given: {} as DenseSetup['given'],
  size: 1024,
  kinds: ['normal', 'height'] as DetailKind[],
  vertexMaps: [] as string[],
  scale: 1,
})

/** The dense mesh of the open project: read on a worker, kept with the project, and matched with its parts. */
export const useDense = defineStore('dense', () => {
  const project = useProject()
  const dense = shallowRef<Dense>()
  const kept = shallowRef<Omit<Kept, 'setup'>>()
  const taken = shallowRef<DenseSetup['taken']>(null)
  const partners = shallowRef<Matched>()
  const going = ref<Going>()
  const problem = ref('')
  const settings = reactive(beginning())
  const crew = new Crew<DenseApi>(() => new Worker(new URL('./dense.worker.ts', import.meta.url), { type: 'module' }))
  const path = (rest = ''): string => `/api/projects/${project.meta!.id}/dense${rest}`
  /** A distance that suits the mesh, in meters. */
  const suggested = computed(() => Number((project.diagonal * CAGE_SHARE).toPrecision(2)))

  /** Counts up when all that is under way ends: what belongs to an earlier round says nothing any more. */
  let round = 0
  /** Counts up with every other dense mesh: work that is stopped leaves the one that is there. */
  let which = 0
  /** The dense mesh is being read again, after a stop. */
  let reopening: Promise<unknown> = Promise.resolve()
  /** The file of the dense mesh, to be read again. */
  let file: File | undefined

  /**
   * Has the worker do something, and tells how far it is.
   * @returns its answer; undefined where it was stopped, or another project is open by then
   */
  async function work<T>(
    what: string,
    ask: (api: Comlink.Remote<DenseApi>, progress: Progress) => Promise<Answer<T>>,
  ): Promise<Answer<T> | undefined> {
    const mine = round
    const begun = performance.now()
    problem.value = ''
    going.value = { what, share: 0 }
    const progress: Progress = (share, doing) => {
      // A worker that was ended goes on telling for a while.
      if (mine !== round) return
      const spent = (performance.now() - begun) / 1000
      going.value = { what: doing, share, ...(share > 0.05 && { remaining: (spent * (1 - share)) / share }) }
    }
    const answer = await crew.unlessDismissed(ask(crew.all[0] ?? crew.add(), Comlink.proxy(progress)))
    if (mine !== round) return undefined
    going.value = undefined
    if (answer && 'error' in answer) problem.value = answer.error
    return answer
  }

  /** Ends whatever is under way, and lets go of the dense mesh. */
  function forget(): void {
    round++
    crew.dismiss()
    going.value = undefined
    dense.value = undefined
    partners.value = undefined
    problem.value = ''
    const mesh = useMesh()
    mesh.cage = undefined
    if (mesh.shown.kind === 'astray' || mesh.shown.kind === 'partners') mesh.shown = { kind: 'level', level: 'part' }
  }
  /** The project has no dense mesh any more, or is another one. */
  function leave(): void {
    forget()
    which++
    kept.value = undefined
    taken.value = null
  }
  watch(
    () => project.meta?.id,
    () => {
      leave()
      saved = ''
      Object.assign(settings, beginning())
    },
  )
  /** Ends what is under way. A dense mesh that was there already is read again: it went with the worker. */
  async function stop(): Promise<void> {
    const again = dense.value && file
    forget()
    const mine = round
    const keys = again && kept.value ? await request<unknown>(path('/keys')).catch(() => undefined) : undefined
    if (!again || mine !== round) return
    reopening = open(again, keys)
    await reopening
  }

  /** Reads a file on the worker. @param keys of its parts, where the project has them */
  async function open(reading: File, keys?: unknown): Promise<boolean> {
    const most = project.limits.bytes
    if (reading.size > most) {
      problem.value = `${reading.name}: the file is larger than ${Math.round(most / 2 ** 20)} MB`
      return false
    }
    const bytes = await reading.arrayBuffer()
    const about = { name: reading.name, limits: { ...toRaw(project.limits) } }
    const answer = await work(`Reading ${reading.name}`, api => api.read(Comlink.transfer(bytes, [bytes]), about, keys))
    if (!answer) return false
    if ('error' in answer) {
      problem.value = `${reading.name}: ${answer.error}`
      return false
    }
    dense.value = { name: reading.name, ...answer.ok }
    file = reading
    settings.vertexMaps = settings.vertexMaps.filter(n => answer.ok.maps.includes(n))
    settings.outward ||= suggested.value
    settings.inward ||= suggested.value
    return true
  }

  /** Takes another mesh as the dense one, and keeps it with the project where that may be changed. */
  async function read(files: readonly File[]): Promise<void> {
    if (!files.length) return
    forget()
    const mine = ++which
    const reading = await oneFile(files)
    if (!(await open(reading)) || project.readOnly) return
    try {
      const query = `?name=${encodeURIComponent(reading.name.slice(-120))}`
      const row = await request<Kept>(path(query), { method: 'PUT', bytes: reading })
      if (mine !== which) return
      kept.value = row
      saved = ''
      // The parts that were in the one before have their keys from there.
      const keys = await request<unknown>(path('/keys'))
      await reopening
      if (mine !== which) return
      await crew.unlessDismissed(Promise.resolve(crew.all[0]?.setKeys(keys)))
      await Promise.all([save(), match()])
    } catch (error) {
      if (mine === which) problem.value = `${reading.name} is read, and could not be kept. ${(error as Error).message}`
    }
  }

  /** Opens the dense mesh that the project keeps, where there is one and none is read yet. */
  async function load(): Promise<void> {
    if (!project.meta || dense.value || going.value) return
    const mine = round
    try {
      const { dense: row } = await request<{ dense: Kept | null }>(path())
      if (!row || mine !== round || dense.value || going.value) return
      if (row.setup) {
        const { taken: before, ...rest } = denseSetupSchema.parse(row.setup)
        Object.assign(settings, rest)
        taken.value = before
      }
      kept.value = { name: row.name, hash: row.hash }
      saved = setupText()
      going.value = { what: `Fetching ${row.name}`, share: 0 }
      const [bytes, keys] = await Promise.all([request<ArrayBuffer>(path('/file')), request<unknown>(path('/keys'))])
      if (mine === round) await open(new File([bytes], row.name), keys)
    } catch (error) {
      if (mine !== round) return
      going.value = undefined
      problem.value = `The dense mesh could not be fetched. ${(error as Error).message}`
    }
  }

  /** Takes the dense mesh out of the project; what was taken from it stays. */
  async function remove(): Promise<void> {
    try {
      if (kept.value) await request(path(), { method: 'DELETE' })
      leave()
      Object.assign(settings, { given: {}, scale: 1 })
    } catch (error) {
      problem.value = `It could not be removed. ${(error as Error).message}`
    }
  }

  // What was chosen is kept.
  let saved = ''
  const setupText = (): string => JSON.stringify({ ...toRaw(settings), taken: taken.value })
  async function save(): Promise<void> {
    const text = setupText()
    if (!kept.value || project.readOnly || text === saved) return
    saved = text
    await request(path(), { method: 'PATCH', json: JSON.parse(text) as unknown }).catch((error: Error) => {
      saved = ''
      problem.value = `What was chosen here could not be kept. ${error.message}`
    })
  }
  watch([settings, taken], useDebounceFn(save, RESTS))

  /** Where the dense mesh is, in meters of the project. */
  const bounds = computed((): Box | undefined => {
    if (!dense.value) return undefined
    const { min, max } = dense.value
    const scaled = (corner: Box['min']): Box['min'] => corner.map(x => x * settings.scale) as Box['min']
    return { min: scaled(min), max: scaled(max) }
  })
  const units = computed(() =>
    bounds.value && project.opened ? otherUnits(bounds.value, project.diagonal) : undefined,
  )
  const lightBounds = computed(() => project.tables && boxOf(project.tables))
  /** Whether the two lie in places that do not meet. */
  const elsewhere = computed(() => {
    if (!bounds.value || !lightBounds.value || units.value) return false
    return apart(bounds.value, lightBounds.value, project.diagonal)
  })

  /** How detail is taken, as the worker needs it. */
  const asked = () => {
    const { scale: _, ...rest } = toRaw(settings)
    return JSON.parse(JSON.stringify(rest)) as Omit<typeof rest, 'scale'>
  }
  /** The mesh as the worker needs it: of its maps the one that the cage is of. */
  function lightMesh(): Mesh {
    const maps = project.tables?.mesh.maps.filter(m => m.name === settings.cageMap) ?? []
    return { ...project.opened!.mesh, maps: maps.map(m => ({ ...m })) }
  }

  /** Finds out whom the parts of the dense mesh belong to. */
  async function match(): Promise<void> {
    const { opened } = project
    const [api] = crew.all
    if (!dense.value || !opened || !api) return
    const mine = round
    const asking = api.match(lightMesh(), opened.parts, settings.scale, asked())
    const found = await crew.unlessDismissed<Answer<Matched>>(asking)
    if (mine === round && found && 'ok' in found) partners.value = found.ok
  }
  const matchSoon = useDebounceFn(match, RESTS)
  watch(
    () => {
      const { scale, outward, inward, cages, given } = settings
      return [dense.value, project.opened, JSON.stringify([scale, outward, inward, cages, given])]
    },
    () => void matchSoon(),
  )

  return {
    ...{ dense, kept, taken, partners, going, problem, settings, suggested, units, elsewhere },
    ...{ work, asked, lightMesh, stop, read, load, remove, save },
  }
})
