import { defineStore } from 'pinia'
import type { Taken } from '#core/dense/take'
import { keyOf } from '#core/mesh/hash'
import { request } from '../shared/request'

/** Share of the texels of a part that may be missed without a word. */
const FEW = 0.02
/** Counts up when the same settings give other pictures. */
const MADE_BY = 2

/** What came of the last time that detail was taken, part by part. */
type Report = Pick<Taken, 'found' | 'alone' | 'leftOver'>
interface KeptPicture {
  name: string
  hash: string
}

const pictureName = (of: string): string => `dense ${of.replace(/[^\p{L}\p{N} _-]/gu, '').slice(0, 60)}.exr`

/** Taking detail from the dense mesh: the Detail page of the Mesh tab. */
export const useDetail = defineStore('detail', () => {
  const project = useProject()
  const dense = useDense()
  const surface = useSurfaceMaps()
  const report = shallowRef<Report>()
  /** Whether nothing had to be done for what was asked for last. */
  const wasThere = ref(false)
  watch(
    () => [dense.dense, project.opened],
    () => {
      report.value = undefined
    },
  )

  /** What a picture of something depends on, as a key. */
  function inputsOf(of: string): string {
    const { kinds: _, vertexMaps: __, ...how } = dense.asked()
    const text = [MADE_BY, project.meta?.mesh?.hash, project.prepared, dense.kept?.hash, dense.settings.scale, how, of]
    return keyOf(JSON.stringify(text))
  }
  const listed = () => request<KeptPicture[]>(`/api/projects/${project.meta!.id}/pictures?look=${project.lookId}`)

  /** Takes what was asked for, as far as it is not there from the same inputs. */
  async function take(): Promise<void> {
    const { opened } = project
    if (!opened || !dense.dense || dense.going) return
    report.value = undefined
    const asked = dense.asked()
    // As it is now: what is changed meanwhile is for the next time.
    const inputs = new Map([...asked.kinds, ...asked.vertexMaps].map(of => [of as string, inputsOf(of)]))
    const before = dense.taken
    const now = before ? await listed().catch(() => []) : []
    const there = new Set(
      before?.pictures
        .filter(p => now.some(n => n.name === p.name && n.hash === p.hash))
        .map(p => `${p.name} ${p.inputs}`),
    )
    const isThere = (of: string): boolean =>
      dense.kept !== undefined && there.has(`${pictureName(of)} ${inputs.get(of)}`)
    const kinds = asked.kinds.filter(k => !isThere(k))
    const vertexMaps = asked.vertexMaps.filter(n => !isThere(n))
    wasThere.value = kinds.length + vertexMaps.length === 0
    if (wasThere.value) {
      const { found, alone, leftOver } = before!
      const columns = [found.texels, found.missed, found.wrong].map(list => Uint32Array.from(list))
      const [texels, missed, wrong] = columns as [Uint32Array, Uint32Array, Uint32Array]
      report.value = { found: { texels, missed, wrong }, alone, leftOver }
      return
    }
    const answer = await dense.work('beginning', (api, progress) =>
      api.take(dense.lightMesh(), opened.parts, dense.settings.scale, { ...asked, kinds, vertexMaps }, progress),
    )
    if (!answer || 'error' in answer) return
    dense.going = { what: 'keeping the pictures', share: 1 }
    await keep(answer.ok, inputs).finally(() => {
      dense.going = undefined
    })
  }

  /** Keeps what was taken as pictures of the project; the look lies on normals and heights from now on. */
  async function keep({ pictures, ...made }: Taken, inputs: ReadonlyMap<string, string>): Promise<void> {
    const names: { name: string; inputs: string }[] = []
    for (const { of, kind, bytes } of pictures) {
      const name = pictureName(of)
      const problem = await surface.add(name, bytes)
      if (problem) {
        dense.problem = problem
        return
      }
      names.push({ name, inputs: inputs.get(of)! })
      if (kind === 'normal') surface.lay('normals', name)
      if (kind === 'height') surface.lay('heights', name)
    }
    const now = await listed().catch(() => [])
    const others = dense.taken?.pictures.filter(p => !names.some(n => n.name === p.name)) ?? []
    const own = names.flatMap(n => {
      const hash = now.find(p => p.name === n.name)?.hash
      return hash ? [{ ...n, hash }] : []
    })
    const { found, alone, leftOver } = made
    const plain = { texels: [...found.texels], missed: [...found.missed], wrong: [...found.wrong] }
    dense.taken = { pictures: [...others, ...own], found: plain, alone, leftOver }
    report.value = made
  }

  /** Parts of the mesh that were missed more than a little, the worst first, with the share of their texels. */
  const missed = computed(() => {
    const { found } = report.value ?? {}
    if (!found) return []
    return [...found.missed]
      .map((n, part) => ({ part, share: found.texels[part] ? n / found.texels[part]! : 0 }))
      .filter(p => p.share > FEW)
      .sort((a, b) => b.share - a.share)
  })
  /** For each part the share of its texels that missed the dense mesh, or met what belongs to another part. */
  const astray = computed(() => {
    const { found } = report.value ?? {}
    if (!found) return undefined
    return Float32Array.from(found.texels, (n, p) => (n ? (found.missed[p]! + found.wrong[p]!) / n : 0))
  })
  /** Shares of all texels: that met the dense mesh, and that met what belongs to another part. */
  const shares = computed(() => {
    const { found } = report.value ?? {}
    const sum = (list: Uint32Array): number => list.reduce((a, b) => a + b, 0)
    const all = found ? sum(found.texels) : 0
    return found && all ? { met: 1 - sum(found.missed) / all, wrong: sum(found.wrong) / all } : undefined
  })

  return { report, wasThere, missed, astray, shares, take }
})
