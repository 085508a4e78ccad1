import { promiseTimeout } from '@vueuse/core'
import { fitsMesh, withMaps, type VertexMap } from '#core/mesh/mesh'
import type { MapSettings } from '#core/geometry/maps'
import { emptyPreparation, mapIdOf, onNormals, type Preparation } from '#core/mesh/preparation'
import { meshTables, rememberInputs, type MeshTables } from '#core/evaluate/tables'
import type { Picture } from '#core/evaluate/pictures'
import { keptMap } from '../mesh/keptMaps'
import { evaluator } from '../shared/evaluation'
import type { Arranged, Opened, SentOpened } from '../shared/evaluate.worker'
import { request } from '../shared/request'
import { received } from '../shared/sentMesh'
import type { ProjectState } from './useProjectState'

/**
 * How long a mesh that is there waits for geometry maps that the server has, in milliseconds: with them the first
 * picture is right, and without them it comes all the same.
 */
const WAITS_FOR_MAPS = 500

/** The mesh of the open project as the worker has read and prepared it, and the tables that looks are evaluated on. */
export function useOpenedMesh(
  { meta, look, preparation, limits, busy, failure, opening }: ProjectState,
  pictures: () => readonly Picture[],
) {
  const tables = shallowRef<MeshTables>()
  const opened = shallowRef<Opened>()
  const arranged = shallowRef<Arranged>()
  /** The preparation that `opened` and `arranged` are of: the document's is ahead of it while the worker follows. */
  const prepared = shallowRef<Preparation>(emptyPreparation())

  /** What a worker needs besides the bytes to read a mesh file of this project. */
  const fileOf = (name: string, keys: ArrayBuffer | null) => ({
    name,
    preparation: preparation.value,
    keys,
    limits: { ...limits.value },
  })
  /** The keys of its parts, as the server has written them: in a mesh of many parts they are long. */
  const keysOf = (id: string, asked = '') =>
    request<ArrayBuffer | null>(`/api/projects/${id}/keys${asked}`, { raw: true })

  /** The project's mesh file, the keys of its parts, and the geometry maps of it that come from the server in time. */
  async function fetchMesh(id: string, asked: string, wanted: readonly MapSettings[]) {
    busy.value = 'Fetching the mesh'
    const { hash } = meta.value!.mesh!
    const prepared = preparation.value
    const here: (VertexMap | null)[] = wanted.map(() => null)
    const coming = wanted.map(async (settings, i) => {
      here[i] = await keptMap(mapIdOf(hash, prepared, settings), settings)
    })
    const [bytes, keys] = await Promise.all([
      request<ArrayBuffer>(`/api/projects/${id}/mesh${asked}`),
      keysOf(id, asked),
    ])
    await Promise.race([Promise.all(coming), promiseTimeout(WAITS_FOR_MAPS)])
    return { bytes, keys, maps: here.filter(m => m !== null) }
  }
  async function readMesh({ bytes, keys, maps }: Awaited<ReturnType<typeof fetchMesh>>): Promise<void> {
    busy.value = 'Reading the mesh and finding its parts'
    const mine = opening.value
    const { mesh } = meta.value!
    const along = { maps, pictures: pictures().map(p => ({ ...p })), look: look.value }
    const answer = await evaluator.open(bytes, fileOf(mesh!.name, keys), along)
    if (mine !== opening.value) return
    taken(answer, maps)
  }

  /** @param maps geometry maps that came with the mesh */
  function taken(answer: { ok: SentOpened } | { error: string }, maps: readonly VertexMap[] = []): void {
    if ('error' in answer) throw new Error(answer.error)
    seen = preparation.value
    applied = shapeOf(seen)
    takeOpened(answer.ok, maps, seen)
  }
  function takeOpened(
    { complete, fileTriangles, arranged, inputs, ...rest }: SentOpened,
    maps: readonly VertexMap[],
    made: Preparation,
  ): void {
    const { mesh, parts } = received(rest)
    rememberInputs(mesh, parts, inputs)
    ready = maps.filter(m => fitsMesh(mesh, m))
    const all = { ...arranged, groups: parts.groups }
    opened.value = { mesh, parts, complete, fileTriangles, arranged: all }
    takeArranged(all, made)
  }
  function takeArranged(next: Arranged, made: Preparation): void {
    const { parts } = opened.value!.parts
    parts.forEach((p, i) => {
      p.group = next.groupOf[i]!
    })
    opened.value!.parts.groups = next.groups
    arranged.value = next
    prepared.value = made
    retable()
  }

  /** Measures that were found only now, such as numbers of neighbors. */
  const takeMeasures = (next: Arranged): void => {
    arranged.value = next
  }

  /** Geometry maps that are ready; they take precedence over maps of the file with the same name. */
  let ready: readonly VertexMap[] = []
  const isSame = (a: VertexMap, b: VertexMap): boolean => a.name === b.name && a.values === b.values
  async function setComputed(maps: readonly VertexMap[]): Promise<void> {
    const same = maps.length === ready.length && maps.every((m, i) => isSame(m, ready[i]!))
    if (same) return
    ready = maps
    await evaluator.setComputed(maps.map(m => ({ ...m })))
    retable()
  }
  function retable(): void {
    if (!opened.value || !arranged.value) return
    const { mesh, parts } = opened.value
    const { sets } = preparation.value
    const { members } = arranged.value
    tables.value = markRaw(
      meshTables(
        onNormals(withMaps(mesh, ready), preparation.value),
        parts,
        sets.flatMap((set, i) => (members[i] ? [{ set, members: members[i] }] : [])),
        arranged.value.measures,
        undefined,
        pictures(),
      ),
    )
  }

  /** All of a preparation that changes what the worker holds; geometry maps are computed elsewhere. */
  const shapeOf = (p: Preparation): string => JSON.stringify({ ...p, maps: [] })
  let applied = ''
  let applying = false
  let seen: Preparation | undefined
  /** Has the worker follow the preparation; the newest one wins. */
  async function applyPreparation(): Promise<void> {
    // Most edits are of the look alone.
    if (applying || !opened.value || preparation.value === seen) return
    applying = true
    try {
      while (opened.value && shapeOf(preparation.value) !== applied) {
        const wanted = (seen = preparation.value)
        busy.value = 'Preparing the mesh'
        const answer = await evaluator.prepare(wanted)
        applied = shapeOf(wanted)
        if ('error' in answer) {
          failure.value = answer.error
          return
        }
        if (!answer.ok) return
        if ('opened' in answer.ok) takeOpened(answer.ok.opened, [], wanted)
        else if (shapeOf(preparation.value) === applied) takeArranged(answer.ok.arranged, wanted)
      }
    } finally {
      applying = false
      busy.value = ''
    }
  }

  /** Of the mesh, in meters; 1 while there is none. */
  const diagonal = computed(() => {
    if (!tables.value) return 1
    const { sizeX, sizeY, sizeZ } = tables.value.whole
    return Math.hypot(sizeX, sizeY, sizeZ)
  })
  /** Names that a new geometry map may not have. */
  const mapNames = computed(() => [...preparation.value.maps, ...(opened.value?.mesh.maps ?? [])].map(m => m.name))

  function close(): void {
    tables.value = undefined
    opened.value = undefined
    arranged.value = undefined
  }

  return {
    tables,
    opened,
    arranged,
    prepared,
    diagonal,
    mapNames,
    fileOf,
    keysOf,
    fetchMesh,
    readMesh,
    taken,
    takeMeasures,
    setComputed,
    retable,
    applyPreparation,
    close,
  }
}
export type OpenedMesh = ReturnType<typeof useOpenedMesh>
