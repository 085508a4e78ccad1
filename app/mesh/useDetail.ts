import * as Comlink from 'comlink'
import { defineStore } from 'pinia'
import { toRaw } from 'vue'
import type { MatchBy } from '#core/dense/partners'
import type { NormalSource } from '#core/dense/normalPicture'
import type { DetailKind, Taken } from '#core/dense/take'
import { setParam } from '#core/graph/edit'
import type { Mesh } from '#core/mesh/mesh'
import { RESULT } from '#core/nodes'
import { Crew } from '../shared/crew'
import type { DenseApi, DenseSummary } from './dense.worker'

/** What is read and not yet taken. */
interface Dense extends DenseSummary {
  name: string
}
/** What the worker answers: what was asked for, or a sentence. */
type Answer<T> = { ok: T } | { error: string }
/** How far the work is; `remaining` in seconds, once it can be told. */
interface Going {
  what: string
  share: number
  remaining?: number
}

/** Share of the texels of a part that may be missed without a word. */
const FEW = 0.02
/** A dense mesh whose diagonal differs by more than this has other units. */
const OTHER_UNITS = 3
/** Factors between the units that meshes come in. */
const UNITS = [0.001, 0.01, 0.0254, 0.3048, 1 / 0.3048, 1 / 0.0254, 100, 1000]

/** Taking detail from a dense mesh: the Detail page of the Mesh tab. */
export const useDetail = defineStore('detail', () => {
  const project = useProject()
  const dense = shallowRef<Dense>()
  const going = ref<Going>()
  const problem = ref('')
  const taken = shallowRef<Taken & { names: string[] }>()
  const settings = reactive({
    match: 'part' as MatchBy,
    outward: 0,
    inward: 0,
    /** The vertex map that both are multiplied by; none where it is empty. */
    cageMap: '',
    size: 1024,
    kinds: ['normal', 'height'] as DetailKind[],
    vertexMaps: [] as string[],
    scale: 1,
  })
  const crew = new Crew<DenseApi>(() => new Worker(new URL('./dense.worker.ts', import.meta.url), { type: 'module' }))

  /** A distance that suits the mesh: a hundredth of its diagonal, in meters. */
  const suggested = computed(() => Number((project.diagonal / 100).toPrecision(2)))

  const start = (): Comlink.Remote<DenseApi> => crew.all[0] ?? crew.add()
  /** Counts up when all that is under way ends: what belongs to an earlier round says nothing any more. */
  let round = 0
  /** What the worker answers, or that it was stopped. */
  const unlessStopped = async <T>(answer: Promise<Answer<T>>): Promise<Answer<T>> =>
    (await crew.unlessDismissed(answer)) ?? { error: 'It was stopped.' }
  /** Ends whatever is under way, and the dense mesh with it. */
  function forget(): void {
    round++
    crew.dismiss()
    going.value = undefined
    dense.value = undefined
    taken.value = undefined
    problem.value = ''
    const mesh = useMesh()
    if (mesh.shown.kind === 'astray') mesh.shown = { kind: 'level', level: 'part' }
  }
  watch(() => project.meta?.id, forget)
  /** The file of the dense mesh, to be read again. */
  let file: File | undefined
  /** Ends what is under way. A dense mesh that was there already is read again: it went with the worker. */
  function stop(): void {
    const again = dense.value && file
    forget()
    if (again) void read(again)
  }

  async function read(reading: File): Promise<void> {
    forget()
    const mine = round
    going.value = { what: `Reading ${reading.name}`, share: 0 }
    try {
      const most = project.limits.bytes
      if (reading.size > most) throw new Error(`the file is larger than ${Math.round(most / 2 ** 20)} MB`)
      const bytes = await reading.arrayBuffer()
      const answer = await unlessStopped(
        start().read(Comlink.transfer(bytes, [bytes]), {
          name: reading.name,
          limits: toRaw(project.limits),
        }),
      )
      if ('error' in answer) throw new Error(answer.error)
      dense.value = { name: reading.name, ...answer.ok }
      file = reading
      settings.vertexMaps = settings.vertexMaps.filter(n => answer.ok.maps.includes(n))
      settings.outward ||= suggested.value
      settings.inward ||= suggested.value
    } catch (error) {
      if (mine === round) problem.value = `${reading.name}: ${(error as Error).message}`
    } finally {
      if (mine === round) going.value = undefined
    }
  }

  /**
   * How much larger the dense mesh is than the project's, where the units seem to be others, and the factor that would
   * mend it.
   */
  const otherUnits = computed(() => {
    if (!dense.value || !project.opened) return undefined
    const { min, max } = dense.value
    const ratio = (Math.hypot(...max.map((x, k) => x - min[k]!)) * settings.scale) / project.diagonal
    if (ratio < OTHER_UNITS && ratio > 1 / OTHER_UNITS) return undefined
    const off = (factor: number): number => Math.abs(Math.log(ratio * factor))
    const [factor] = [...UNITS].sort((a, b) => off(a) - off(b))
    return { ratio, ...(off(factor!) < 0.2 && { factor: factor! }) }
  })
  /** Whether the two lie in places that do not meet. */
  const elsewhere = computed(() => {
    const bounds = project.opened?.parts.parts
    if (!dense.value || !bounds || otherUnits.value) return false
    const { min, max } = dense.value
    return [0, 1, 2].some(k => {
      const low = bounds.reduce((x, p) => Math.min(x, p.min[k]!), Infinity)
      const high = bounds.reduce((x, p) => Math.max(x, p.min[k]! + p.size[k]!), -Infinity)
      return min[k]! * settings.scale > high || max[k]! * settings.scale < low
    })
  })

  /** The mesh as the worker needs it: of its maps the one that the cage is of. */
  function meshFor(cageMap: string): Mesh {
    const maps = project.tables?.mesh.maps.filter(m => m.name === cageMap) ?? []
    return { ...project.opened!.mesh, maps: maps.map(m => ({ ...m })) }
  }

  async function take(): Promise<void> {
    const { opened } = project
    if (!opened || !dense.value || going.value) return
    problem.value = ''
    taken.value = undefined
    const mine = round
    const begun = performance.now()
    going.value = { what: 'beginning', share: 0 }
    const { scale, ...asked } = toRaw(settings)
    const progress = (share: number, what: string): void => {
      // A worker that was ended goes on telling for a while.
      if (mine !== round) return
      const spent = (performance.now() - begun) / 1000
      going.value = { what, share, ...(share > 0.05 && { remaining: (spent * (1 - share)) / share }) }
    }
    const { cageMap, ...plain } = asked
    const settled = {
      ...plain,
      ...(cageMap && { cageMap }),
      kinds: [...asked.kinds],
      vertexMaps: [...asked.vertexMaps],
      dilation: asked.size >> 6,
    }
    const answer = await unlessStopped(
      start().take(meshFor(cageMap), opened.parts, scale, settled, Comlink.proxy(progress)),
    )
    if (mine !== round) return
    if ('error' in answer) {
      problem.value = answer.error
      going.value = undefined
      return
    }
    await keep(answer.ok)
    going.value = undefined
  }

  /**
   * Makes pictures of normals in tangent space the normals that the look lies on.
   * @returns the name of the picture that was made, or a sentence
   */
  async function turn(sources: readonly NormalSource[], name: string): Promise<{ ok: string } | { error: string }> {
    const { opened } = project
    if (!opened) return { error: 'There is no mesh.' }
    const mine = round
    going.value = { what: 'turning normals', share: 0 }
    try {
      const largest = Math.max(256, ...sources.map(s => Math.max(s.picture.width, s.picture.height)))
      const size = Math.min(4096, 2 ** Math.ceil(Math.log2(largest)))
      const progress = (share: number, what: string): void => {
        if (mine === round) going.value = { what, share }
      }
      const plain = sources.map(s => ({ ...s, picture: { ...s.picture } }))
      const answer = await unlessStopped(start().normals(opened.mesh, plain, size, Comlink.proxy(progress)))
      if ('error' in answer) return answer
      const problemOf = await project.addPicture(new File([answer.ok as Uint8Array<ArrayBuffer>], name))
      return problemOf ? { error: problemOf } : { ok: name }
    } finally {
      if (mine === round) going.value = undefined
    }
  }

  /** Keeps what was taken as pictures of the project; the look lies on the normals from now on. */
  async function keep(found: Taken): Promise<void> {
    const names: string[] = []
    for (const { of, kind, bytes } of found.pictures) {
      const name = `dense ${of.replace(/[^\p{L}\p{N} _-]/gu, '').slice(0, 60)}.exr`
      const problemOf = await project.addPicture(new File([bytes as Uint8Array<ArrayBuffer>], name))
      if (problemOf) {
        problem.value = problemOf
        return
      }
      names.push(name)
      if (kind === 'normal') layOn(name)
    }
    taken.value = { ...found, names }
  }
  /** Lays the look on a picture of normals, or on the mesh's own. */
  function layOn(name: string): void {
    const result = project.look.nodes.find(n => n.kind === RESULT)
    if (result)
      project.edit('Lay the look on the dense mesh', l => setParam(l, result.id, 'normals', name || undefined))
    project.settle()
  }
  const normals = computed(() => String(project.look.nodes.find(n => n.kind === RESULT)?.params.normals ?? ''))

  /** Parts of the mesh that were missed more than a little, the worst first, with the share of their texels. */
  const missed = computed(() => {
    const { found } = taken.value ?? {}
    if (!found) return []
    return [...found.missed]
      .map((n, part) => ({ part, share: found.texels[part] ? n / found.texels[part]! : 0 }))
      .filter(p => p.share > FEW)
      .sort((a, b) => b.share - a.share)
  })
  /** For each part the share of its texels that missed the dense mesh, or met what belongs to another part. */
  const astray = computed(() => {
    const { found } = taken.value ?? {}
    if (!found) return undefined
    return Float32Array.from(found.texels, (n, p) => (n ? (found.missed[p]! + found.wrong[p]!) / n : 0))
  })
  /** Shares of all texels: that met the dense mesh, and that met what belongs to another part. */
  const shares = computed(() => {
    const { found } = taken.value ?? {}
    const sum = (list: Uint32Array): number => list.reduce((a, b) => a + b, 0)
    const all = found ? sum(found.texels) : 0
    return found && all ? { met: 1 - sum(found.missed) / all, wrong: sum(found.wrong) / all } : undefined
  })

  return {
    dense,
    going,
    problem,
    taken,
    settings,
    suggested,
    otherUnits,
    elsewhere,
    missed,
    astray,
    shares,
    normals,
    read,
    take,
    forget,
    stop,
    layOn,
    turn,
  }
})
