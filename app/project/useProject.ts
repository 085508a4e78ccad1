import { watchDebounced } from '@vueuse/core'
import { defineStore } from 'pinia'
import { differencesOf } from '#core/graph/differences'
import { check, type Finding } from '#core/graph/check'
import { nodeOf } from '#core/graph/ports'
import { changePage, leads, pageOf } from '#core/graph/scope'
import { emptyLook, LookError, parseLook, type Look } from '#core/graph/look'
import { READ_LIMITS, type ReadLimits } from '#core/exchange/meshFile'
import { readLookFile } from '#core/exchange/readLookFile'
import { meshTables, type MeshTables } from '#core/evaluate/tables'
import { boundsOf, fitsMesh, withMaps, type VertexMap } from '#core/mesh/mesh'
import type { MapSettings } from '#core/geometry/maps'
import { emptyPreparation, mapIdOf, parsePreparation, PreparationError, type Preparation } from '#core/mesh/preparation'
import { preparationDifferences } from '#core/mesh/preparationDifferences'
import type { KeyTable } from '#core/mesh/keys'
import type { Picture } from '#core/evaluate/pictures'
import { keptMap } from '../mesh/keptMaps'
import { decodePicture } from '../collect/pictures'
import { History } from './history'
import { evaluator } from '../shared/evaluation'
import { handsRest } from '../stage/turns'
import { request, RequestError } from '../shared/request'
import { useMe } from '../people/useMe'
import { dropDraft, keepDraft, orphanedDraft, type Draft } from './drafts'
import type { Replacement } from '#core/evaluate/replacement'
import type { Arranged, Opened } from '../shared/evaluate.worker'

/** The stage has a new state first; then the checks follow, at this distance at the latest. In milliseconds. */
const CHECK_AFTER = 100
const CHECK_WAITS = 5000

export type SaveState = 'saved' | 'waiting' | 'saving' | 'offline' | 'stale' | 'refused'

/** One of a project's looks, as it is listed. */
export interface LookEntry {
  id: string
  name: string
  removed: number | null
  thumbnail: string | null
}

export interface ProjectMeta {
  id: string
  name: string
  created: number
  changed: number
  removed: number | null
  triangles: number | null
  parts: number | null
  mesh: { hash: string; name: string } | null
  thumbnail: string | null
  /** Since when it is locked against changes, and by whom. */
  locked: number | null
  lockedBy: string | null
}

/** A project with one of its looks, as the server sends it. */
interface Found extends ProjectMeta {
  revision: number
  looks: LookEntry[]
  lookId: string
  look: unknown
  preparation: unknown
  saved?: number
}

/** An old revision that is looked at. */
export interface Viewed {
  number: number
  saved: number
}

/** All that is kept of a project besides its mesh: what undo goes back over and what a save saves. */
export interface ProjectDocument {
  look: Look
  preparation: Preparation
}

/** How long the hands must rest before a save, and how long to wait for a lost server, in milliseconds. */
const SAVE_AFTER = 700
const RETRY_AFTER = 3000

/** The open project: its mesh, its looks, the one that is open with its history, and what is selected. Saves itself. */
export const useProject = defineStore('project', () => {
  const meta = shallowRef<ProjectMeta>()
  const tables = shallowRef<MeshTables>()
  const opened = shallowRef<Opened>()
  const arranged = shallowRef<Arranged>()
  /** The preparation that `opened` and `arranged` are of: the document's is ahead of it while the worker follows. */
  const prepared = shallowRef<Preparation>(emptyPreparation())
  const limits = shallowRef<ReadLimits>(READ_LIMITS)
  const document = shallowRef<ProjectDocument>({ look: emptyLook(), preparation: emptyPreparation() })
  /** The recipes that are open, one inside the other; the page on which the graph is, and what it changes. */
  const scope = shallowRef<readonly string[]>([])
  const page = computed(() => pageOf(document.value.look, scope.value))
  const look = computed(() => document.value.look)
  const preparation = computed(() => document.value.preparation)
  /** All looks of the project, removed ones too, and which of them is open. */
  const looks = shallowRef<readonly LookEntry[]>([])
  const lookId = ref('')
  /** The look that was open first: an address that names none means this one. */
  const arrivedAt = ref('')
  let history = new History(document.value)
  /** Of the looks that were open before, by id. */
  const histories = new Map<string, History<ProjectDocument>>()
  /** Counts history's changes, so that what is shown of it follows. */
  const historyTick = ref(0)
  const selected = ref<string[]>([])
  /** The list of single parts that clicks on the stage add to. */
  const picking = shallowRef<{ node: string; param: string } | null>(null)
  /** What is going on, in words; empty when nothing is. */
  const busy = ref('')
  const failure = ref('')
  const saveState = ref<SaveState>('saved')
  const saveError = ref('')
  /** The revision that is looked at, where it is not the newest: nothing can be changed then. */
  const viewed = shallowRef<Viewed>()
  /** What was taken up from an earlier window that could not save it. */
  const takenUp = ref(false)
  const { me } = useMe()
  /** Why nothing can be changed; empty where it can. */
  const readOnly = computed(() => {
    if (viewed.value) return `This is revision ${viewed.value.number}; it can be looked at, not changed.`
    if (meta.value?.locked)
      return `This project is locked against changes${meta.value.lockedBy ? ` by ${meta.value.lockedBy}` : ''}.`
    if (me.value?.role === 'look') return 'You may look at projects here, not change them.'
    return ''
  })
  /** Whether the server does not save because it does not know any more who sits here. */
  const signedOut = ref(false)
  /** The newest revision that this window knows. */
  const newest = ref(0)

  let revision = 0
  let saved: ProjectDocument | undefined
  let timer: ReturnType<typeof setTimeout> | undefined
  let saving: Promise<void> | undefined

  /**
   * The look as it was when the hands last rested so many milliseconds. Not made reactive inside: it goes to workers
   * and keys caches.
   */
  function rests(debounce: number) {
    const rested = shallowRef(look.value)
    watchDebounced(
      look,
      now => {
        rested.value = now
      },
      { debounce },
    )
    return rested
  }
  // The checks follow when the hands rest: while a number is dragged they would cost every frame.
  const rested = rests(120)
  const told = computed<Finding[]>(() =>
    check(
      rested.value,
      tables.value
        ? {
            maps: [...tables.value.mesh.maps, ...preparation.value.maps].map(m => m.name),
            sets: preparation.value.sets.map(s => s.name),
            pictures: pictures.value.map(p => p.name),
          }
        : {},
    ),
  )
  // What only values tell comes from the worker, when the hands have rested longer.
  const measured = shallowRef<Finding[]>([])
  const texels = ref(1024)
  const resting = rests(900)
  let checking = false
  let wanted = 0
  async function checkOnMesh(): Promise<void> {
    wanted++
    if (checking) return
    checking = true
    try {
      for (let done = 0; tables.value && done !== wanted; ) {
        done = wanted
        await new Promise(resolve => setTimeout(resolve, CHECK_AFTER))
        await handsRest(CHECK_WAITS)
        if (!tables.value) break
        measured.value = await evaluator.check(resting.value, texels.value)
      }
    } finally {
      checking = false
    }
  }
  watch([resting, tables, texels], () => void checkOnMesh())
  /** What was measured stays until it is measured again, as long as its node is there. */
  const findings = computed<Finding[]>(() => [
    ...told.value,
    ...measured.value.filter(f => !f.node || nodeOf(rested.value, f.node)),
  ])
  /** Of the mesh, in meters; 1 while there is none. */
  const diagonal = computed(() => {
    if (!opened.value) return 1
    const { min, max } = boundsOf(opened.value.mesh.positions, opened.value.mesh.indices)
    return Math.hypot(...max.map((x, k) => x - min[k]!))
  })
  /** Names that a new geometry map may not have. */
  const mapNames = computed(() => [...preparation.value.maps, ...(opened.value?.mesh.maps ?? [])].map(m => m.name))
  const undoLabel = computed(() => (historyTick.value >= 0 ? history.undoLabel : undefined))
  /** Every step since the project was opened, the oldest first, and the one that the document is at. */
  const steps = computed(() => (historyTick.value >= 0 ? history.labels : []))
  const step = computed(() => (historyTick.value >= 0 ? history.step : 0))
  /** What a step changed, one sentence each. */
  function wordsOf(step: number): string[] {
    const around = history.around(step)
    if (!around) return []
    const { before, after } = around
    const others = preparationDifferences(before.preparation, after.preparation)
    return [...differencesOf(before.look, after.look).map(d => d.words), ...others]
  }
  const redoLabel = computed(() => (historyTick.value >= 0 ? history.redoLabel : undefined))

  function show(next: ProjectDocument): void {
    document.value = next
    historyTick.value++
    if (!leads(next.look, scope.value)) scope.value = []
    if (selected.value.some(id => !nodeOf(page.value, id)))
      selected.value = selected.value.filter(id => nodeOf(page.value, id))
    scheduleSave()
    void applyPreparation()
  }

  /**
   * Makes an edit. `merge` names a gesture: edits with the same name that follow one another count as one step to undo,
   * until `settle` ends it.
   */
  function editDocument(label: string, change: (document: ProjectDocument) => ProjectDocument, merge?: string): void {
    if (readOnly.value) return
    const next = change(document.value)
    if (next === document.value || (next.look === look.value && next.preparation === preparation.value)) return
    history.push(next, label, merge)
    show(next)
  }
  const edit = (label: string, change: (look: Look) => Look, merge?: string): void =>
    editDocument(label, d => ({ ...d, look: change(d.look) }), merge)
  const editPage = (label: string, change: (page: Look) => Look, merge?: string): void =>
    edit(label, l => changePage(l, scope.value, change), merge)
  function enter(path: readonly string[]): void {
    selected.value = []
    picking.value = null
    scope.value = path
  }
  const prepare = (label: string, change: (preparation: Preparation) => Preparation, merge?: string): void =>
    editDocument(label, d => ({ ...d, preparation: change(d.preparation) }), merge)
  const settle = (): void => history.settle()
  function undo(): void {
    const back = history.undo()
    if (back) show(back)
  }
  function redo(): void {
    const forth = history.redo()
    if (forth) show(forth)
  }

  function jump(to: number): void {
    const there = history.jump(to)
    if (there) show(there)
  }

  /** Has the browser keep what is not saved, so that closing the window loses nothing. */
  function keep(): void {
    const id = meta.value?.id
    if (id && document.value !== saved && !viewed.value) void keepDraft(id, lookId.value, revision, document.value)
  }

  function scheduleSave(delay = SAVE_AFTER): void {
    if (!meta.value || viewed.value) return
    if (saveState.value === 'stale') {
      keep()
      return
    }
    if (document.value === saved) {
      saveState.value = 'saved'
      void dropDraft(meta.value.id, lookId.value)
      return
    }
    if (saveState.value === 'offline' || saveState.value === 'refused') keep()
    if (saveState.value !== 'offline') saveState.value = 'waiting'
    clearTimeout(timer)
    timer = setTimeout(() => void save(), delay)
  }

  /**
   * Saves now, after any save under way; of several that wait, one goes at a time, or two would name the same revision.
   */
  async function save(): Promise<void> {
    clearTimeout(timer)
    while (saving) await saving
    const id = meta.value?.id
    const of = lookId.value
    const sent = document.value
    if (!id || sent === saved || saveState.value === 'stale' || viewed.value) return
    if (saveState.value !== 'offline') saveState.value = 'saving'
    saving = request<{ revision: number }>(`/api/projects/${id}/look?look=${of}`, {
      method: 'PUT',
      json: { base: revision, ...sent },
    })
      .then(
        answer => {
          setRevision(answer.revision)
          saved = sent
          signedOut.value = false
          saveState.value = 'saved'
          saveError.value = ''
          if (document.value !== sent) scheduleSave()
          else void dropDraft(id, of)
        },
        (error: unknown) => {
          const status = error instanceof RequestError ? error.status : 0
          saveError.value = (error as Error).message
          signedOut.value = status === 401
          const later = status === 0 || status === 401 || status === 429 || status >= 500
          if (status === 409) saveState.value = 'stale'
          else saveState.value = later ? 'offline' : 'refused'
          keep()
          if (saveState.value === 'offline') timer = setTimeout(() => void save(), RETRY_AFTER)
        },
      )
      .finally(() => {
        saving = undefined
      })
    await saving
  }

  /** Saves until nothing is left to save; what cannot be saved now, the browser keeps. */
  async function saveAll(): Promise<void> {
    await save()
    while (meta.value && document.value !== saved && saveState.value === 'waiting') await save()
    keep()
  }

  function setRevision(number: number): void {
    revision = number
    newest.value = number
  }

  /**
   * Saves what is not saved yet.
   * @returns the newest revision
   * @throws Error with a sentence where it cannot be saved
   */
  async function saveNow(): Promise<number> {
    await save()
    if (document.value !== saved)
      throw new Error(
        saveState.value === 'stale'
          ? 'Another window has saved this project in the meantime; choose which state goes on first.'
          : saveError.value || 'The look could not be saved.',
      )
    return revision
  }

  /**
   * After a stale save: takes the other state, with ours one undo away, or saves ours over it. Both stay as revisions.
   */
  async function resolveStale(choice: 'mine' | 'theirs'): Promise<void> {
    const id = meta.value!.id
    const latest = await request<Found>(`/api/projects/${id}?look=${lookId.value}`)
    setRevision(latest.revision)
    saveState.value = 'saved'
    if (choice === 'theirs') {
      const theirs = { look: parseLook(latest.look), preparation: parsePreparation(latest.preparation) }
      saved = theirs
      history.push(theirs, "Take the other window's state")
      show(theirs)
    } else {
      saved = undefined
      scheduleSave(0)
    }
  }

  /** Counts openings: an answer that comes after the next opening belongs to nobody. */
  let opening = 0

  /**
   * Opens a project, or one of its old revisions to look at. What was open is saved first; what an earlier window could
   * not save is taken up, and saved.
   * @param look the id of the look to show; the one that was saved last where none is named
   */
  function open(id: string, number?: number, look?: string): Promise<void> {
    return (openingNow = openNow(id, number, look))
  }

  /** Whoever brings in a file before the project is there waits for it. */
  let openingNow: Promise<void> | undefined
  async function openNow(id: string, number?: number, look?: string): Promise<void> {
    await saveAll()
    close()
    const mine = ++opening
    const current = (): boolean => mine === opening
    busy.value = 'Opening the project'
    try {
      const asked = number === undefined ? '' : `?revision=${number}`
      const draft = number === undefined ? await orphanedDraft(id, look) : undefined
      const which = look ?? draft?.lookId
      const [found, allowed] = await Promise.all([
        request<Found>(`/api/projects/${id}${asked || (which ? `?look=${which}` : '')}`),
        request<ReadLimits>('/api/limits'),
      ])
      if (!current()) return
      limits.value = allowed
      meta.value = found
      viewed.value = number === undefined ? undefined : { number, saved: found.saved ?? 0 }
      arrivedAt.value = found.lookId
      turnTo(found)
      if (found.mesh) void evaluator.expect(found.look).catch(() => {})
      // What was not saved may want other geometry maps.
      const coming = found.mesh && fetchMesh(id, asked, draft ? [] : preparation.value.maps)
      await Promise.all([readPictures(id, asked), coming])
      if (!current()) return
      if (draft) takeUp(draft)
      if (coming) await readMesh(await coming)
    } catch (error) {
      if (!current()) return
      failure.value =
        error instanceof LookError || error instanceof PreparationError
          ? `The look cannot be shown: ${error.message}`
          : (error as Error).message
    } finally {
      if (current()) busy.value = ''
    }
  }

  /**
   * Goes on with a look as the server has it, with the steps that were gone here before where it is still what they led
   * to.
   */
  function turnTo(found: Found): void {
    looks.value = found.looks
    lookId.value = found.lookId
    setRevision(found.revision)
    const read = { look: parseLook(found.look), preparation: parsePreparation(found.preparation) }
    const before = histories.get(found.lookId)
    const same = before && JSON.stringify(before.state.look) === JSON.stringify(read.look)
    history = same ? before : new History(read)
    if (JSON.stringify(history.state.preparation) !== JSON.stringify(read.preparation))
      history.push({ look: history.state.look, preparation: read.preparation }, 'Prepare the mesh, in another look')
    saved = history.state
    document.value = history.state
    historyTick.value++
    saveState.value = 'saved'
  }

  /** Counts turns to other looks, as `opening` counts openings. */
  let turning = 0

  /**
   * Shows another look of the open project, on the same mesh, with steps to go back over of its own. What is open is
   * saved first.
   * @returns a sentence where it cannot be shown: then what was open still is
   */
  async function showLook(id: string): Promise<string | undefined> {
    const project = meta.value?.id
    if (!project || id === lookId.value) return undefined
    const mine = ++turning
    const before = opening
    const current = (): boolean => mine === turning && before === opening
    try {
      await saveNow()
      const [found, draft] = await Promise.all([
        request<Found>(`/api/projects/${project}?look=${id}`),
        orphanedDraft(project, id),
      ])
      if (!current()) return undefined
      if (viewed.value || found.mesh?.hash !== meta.value?.mesh?.hash) {
        await open(project, undefined, id)
        return undefined
      }
      await saveNow()
      history.settle()
      histories.set(lookId.value, history)
      selected.value = []
      picking.value = null
      scope.value = []
      turnTo(found)
      if (draft) takeUp(draft)
      await applyPreparation()
      return undefined
    } catch (error) {
      return current() ? (error as Error).message : undefined
    }
  }

  /** Goes on with what an earlier window could not save. Where somebody has saved since, the artist chooses. */
  function takeUp(draft: Draft): void {
    // Kept until the project can be changed again.
    if (readOnly.value) return
    const { look, preparation, base, window } = draft
    const same =
      JSON.stringify([look, preparation]) === JSON.stringify([document.value.look, document.value.preparation])
    if (same) {
      void dropDraft(draft.project, draft.lookId, window)
      return
    }
    takenUp.value = true
    // The server tells by it whether the look was saved since.
    revision = base
    editDocument('Take up what was not saved', () => ({ look, preparation }))
    settle()
    // Kept under this window's name from now on.
    void keepDraft(draft.project, lookId.value, revision, document.value).then(kept =>
      kept ? dropDraft(draft.project, draft.lookId, window) : undefined,
    )
  }

  /** What a worker needs besides the bytes to read a mesh file of this project. */
  const fileOf = (name: string, keys: KeyTable | null) => ({
    name,
    preparation: preparation.value,
    keys,
    limits: { ...limits.value },
  })
  const keysOf = (id: string, asked = '') => request<KeyTable | null>(`/api/projects/${id}/keys${asked}`)

  /** The project's mesh file, the keys of its parts, and the geometry maps that the server has of it. */
  async function fetchMesh(id: string, asked: string, wanted: readonly MapSettings[]) {
    busy.value = 'Fetching the mesh'
    const { hash } = meta.value!.mesh!
    const prepared = preparation.value
    const [bytes, keys, maps] = await Promise.all([
      request<ArrayBuffer>(`/api/projects/${id}/mesh${asked}`),
      keysOf(id, asked),
      Promise.all(wanted.map(settings => keptMap(mapIdOf(hash, prepared, settings), settings))),
    ])
    return { bytes, keys, maps: maps.filter(m => m !== null) }
  }
  async function readMesh({ bytes, keys, maps }: Awaited<ReturnType<typeof fetchMesh>>): Promise<void> {
    busy.value = 'Reading the mesh and finding its parts'
    const mine = opening
    const { mesh } = meta.value!
    const along = { maps, pictures: pictures.value.map(p => ({ ...p })) }
    const answer = await evaluator.open(bytes, fileOf(mesh!.name, keys), along)
    if (mine !== opening) return
    taken(answer, maps)
  }

  /** @param maps geometry maps that came with the mesh */
  function taken(answer: { ok: Opened } | { error: string }, maps: readonly VertexMap[] = []): void {
    if ('error' in answer) throw new Error(answer.error)
    seen = preparation.value
    applied = shapeOf(seen)
    ready = maps.filter(m => fitsMesh(answer.ok.mesh, m))
    opened.value = answer.ok
    takeArranged(answer.ok.arranged, seen)
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

  /** The project's pictures, as their nodes read them. */
  const pictures = shallowRef<readonly Picture[]>([])
  async function readPictures(id: string, asked: string): Promise<void> {
    const mine = opening
    const list = await request<{ name: string; hash: string }[]>(`/api/projects/${id}/pictures${asked}`)
    const read = await Promise.all(
      list.map(async ({ name, hash }) =>
        decodePicture(name, new Blob([await request<ArrayBuffer>(`/api/projects/${id}/pictures/${hash}`)])),
      ),
    )
    if (mine === opening) pictures.value = read
  }
  /** The file of one of the project's pictures, as it came. */
  async function pictureFile(name: string): Promise<Blob> {
    const { id } = meta.value!
    const list = await request<{ name: string; hash: string }[]>(`/api/projects/${id}/pictures?look=${lookId.value}`)
    const { hash } = list.find(p => p.name === name)!
    return new Blob([await request<ArrayBuffer>(`/api/projects/${id}/pictures/${hash}`)])
  }
  const sendPictures = (): Promise<void> => evaluator.setPictures(pictures.value.map(p => ({ ...p })))
  /** Adds a picture file to the project. Answers with a sentence where it cannot be done. */
  async function addPicture(file: File): Promise<string | null> {
    const { id } = meta.value!
    if (readOnly.value) return readOnly.value
    try {
      const picture = await decodePicture(file.name, file).catch(() => {
        throw new Error('this is not a picture that can be read; PNG, JPEG, WebP and EXR can')
      })
      await save()
      const path = `/api/projects/${id}/pictures?name=${encodeURIComponent(file.name)}&base=${revision}&look=${lookId.value}`
      const kept = await request<{ revision: number }>(path, { method: 'PUT', bytes: file })
      setRevision(kept.revision)
      pictures.value = [...pictures.value.filter(p => p.name !== file.name), picture]
      await sendPictures()
      retable()
      return null
    } catch (error) {
      return `${file.name}: ${(error as Error).message}`
    }
  }

  /**
   * Puts a look from a file in the place of the look, with the pictures that came with it. Answers with what could not
   * be taken over, or why it cannot be read.
   */
  async function takeLook(file: File): Promise<{ ok: string[] } | { error: string }> {
    try {
      const {
        look: next,
        pictures: along,
        report,
      } = readLookFile(file.name, new Uint8Array(await file.arrayBuffer()), limits.value)
      for (const p of along) {
        const problem = await addPicture(new File([p.bytes as Uint8Array<ArrayBuffer>], p.name))
        if (problem) return { error: problem }
      }
      edit(`Bring in ${file.name}`, () => next)
      settle()
      return { ok: report }
    } catch (error) {
      return { error: `${file.name}: ${(error as Error).message}` }
    }
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
        withMaps(mesh, ready),
        parts,
        sets.flatMap((set, i) => (members[i] ? [{ set, members: members[i] }] : [])),
        arranged.value.measures,
        undefined,
        pictures.value,
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
        if (answer.ok.opened) {
          ready = []
          opened.value = answer.ok.opened
        }
        if (shapeOf(preparation.value) === applied || answer.ok.opened) takeArranged(answer.ok.arranged, wanted)
      }
    } finally {
      applying = false
      busy.value = ''
    }
  }

  /** Several files dropped together become one, as the readers take it. */
  async function bytesOf(files: readonly File[]): Promise<{ name: string; bytes: ArrayBuffer }> {
    const main = files.find(f => /\.(glb|gltf|obj|ply|zip)$/i.test(f.name)) ?? files[0]!
    if (files.length === 1) return { name: main.name, bytes: await main.arrayBuffer() }
    const { zipSync } = await import('fflate')
    const entries = await Promise.all(files.map(async f => [f.name, new Uint8Array(await f.arrayBuffer())] as const))
    return {
      name: main.name.replace(/\.[^.]*$/, '.zip'),
      bytes: zipSync(Object.fromEntries(entries), { level: 0 }).buffer,
    }
  }

  /**
   * Reads mesh files that are to come into the project. Until the reading has worked, nothing changes. Where there is a
   * mesh already, the answer says how the parts match, and `replace` or `forget` decides.
   */
  const incoming = shallowRef<{ name: string; bytes: ArrayBuffer; found: Replacement }>()
  async function importMesh(files: readonly File[], progress: (share: number) => void): Promise<string | null> {
    if (!meta.value) await openingNow
    const id = meta.value?.id
    const total = files.reduce((sum, f) => sum + f.size, 0)
    if (!id || !files.length) return 'No project is open.'
    if (readOnly.value) return readOnly.value
    const { name: named } = files[0]!
    const most = limits.value.bytes
    if (total > most)
      return `${named}: the file has ${Math.round(total / 2 ** 20)} MB; the limit is ${Math.round(most / 2 ** 20)} MB.`
    try {
      busy.value = `Reading ${named}`
      const { name, bytes } = await bytesOf(files)
      return await consider(name, bytes, progress)
    } catch (error) {
      return `${named}: ${(error as Error).message}`
    } finally {
      busy.value = ''
    }
  }
  async function consider(name: string, bytes: ArrayBuffer, progress: (share: number) => void): Promise<string | null> {
    const keys = meta.value!.mesh ? await keysOf(meta.value!.id) : null
    const answer = await evaluator.compare(bytes.slice(0), fileOf(name, keys))
    if ('error' in answer) return `${name}: ${answer.error}`
    incoming.value = { name, bytes, found: answer.ok }
    return meta.value!.mesh ? null : replace(progress)
  }

  /** Stores the mesh that was read and goes on with it. */
  async function replace(progress: (share: number) => void): Promise<string | null> {
    const { name, bytes } = incoming.value!
    const { id } = meta.value!
    try {
      busy.value = `Storing ${name}`
      // The server matches the parts by the preparation that it has.
      await save()
      const stored = await request<ProjectMeta & { revision: number }>(
        `/api/projects/${id}/mesh?name=${encodeURIComponent(name)}&base=${revision}&look=${lookId.value}`,
        { method: 'PUT', bytes, progress },
      )
      meta.value = stored
      setRevision(stored.revision)
      incoming.value = undefined
      const answer = await evaluator.adopt()
      if (pictures.value.length) await sendPictures()
      taken(answer)
      return null
    } catch (error) {
      return `${name}: ${(error as Error).message}`
    } finally {
      busy.value = ''
    }
  }
  function forget(): void {
    incoming.value = undefined
    void evaluator.forget()
  }

  /** Makes UVs for the mesh, and has it considered as a replacement. */
  async function unwrap(progress: (share: number) => void): Promise<string | null> {
    try {
      busy.value = 'Unwrapping the mesh'
      const answer = await evaluator.unwrap()
      const { name } = meta.value!.mesh!
      if ('error' in answer) return answer.error
      return await consider(`${name.replace(/\.[^.]*$/, '')} unwrapped.glb`, answer.ok.buffer as ArrayBuffer, progress)
    } finally {
      busy.value = ''
    }
  }

  /** Makes the project what it was in an old revision, as a new one, and opens it. */
  async function restore(number: number): Promise<void> {
    const { id } = meta.value!
    await save()
    const at = `/api/projects/${id}`
    const latest = viewed.value ? (await request<Found>(`${at}?look=${lookId.value}`)).revision : revision
    await request(`${at}/revisions/${number}/restore`, { method: 'POST', json: { base: latest } })
    await open(id, undefined, lookId.value)
  }

  /** Locks the project against changes, or unlocks it. */
  async function lock(locked: boolean): Promise<void> {
    if (locked) await save()
    const { id } = meta.value!
    const now = await request<ProjectMeta>(`/api/projects/${id}/lock`, { method: 'PUT', json: { locked } })
    meta.value = { ...meta.value!, locked: now.locked, lockedBy: now.lockedBy }
  }

  /** What the server said of the project in passing: whether somebody has locked it, and which looks it has. */
  function heard({ locked, lockedBy, looks: listed }: Pick<Found, 'locked' | 'lockedBy' | 'looks'>): void {
    if (JSON.stringify(listed) !== JSON.stringify(looks.value)) looks.value = listed
    if (meta.value && (meta.value.locked !== locked || meta.value.lockedBy !== lockedBy))
      meta.value = { ...meta.value, locked, lockedBy }
  }

  async function rename(name: string): Promise<void> {
    if (!meta.value || !name.trim() || name === meta.value.name) return
    meta.value = {
      ...meta.value,
      ...(await request<ProjectMeta>(`/api/projects/${meta.value.id}`, { method: 'PATCH', json: { name } })),
    }
  }

  function close(): void {
    clearTimeout(timer)
    opening++
    histories.clear()
    looks.value = []
    lookId.value = arrivedAt.value = ''
    viewed.value = undefined
    takenUp.value = false
    meta.value = undefined
    tables.value = undefined
    measured.value = []
    opened.value = undefined
    arranged.value = undefined
    incoming.value = undefined
    selected.value = []
    picking.value = null
    pictures.value = []
    scope.value = []
    failure.value = ''
    saveState.value = 'saved'
    document.value = { look: emptyLook(), preparation: emptyPreparation() }
    history = new History(document.value)
  }

  return {
    meta,
    signedOut,
    viewed,
    takenUp,
    readOnly,
    newest,
    setRevision,
    looks,
    lookId,
    arrivedAt,
    showLook,
    restore,
    lock,
    heard,
    diagonal,
    mapNames,
    page,
    scope,
    enter,
    editPage,
    tables,
    opened,
    arranged,
    prepared,
    incoming,
    limits,
    look,
    preparation,
    pictures,
    addPicture,
    pictureFile,
    takeLook,
    texels,
    selected,
    picking,
    busy,
    failure,
    saveState,
    saveError,
    findings,
    undoLabel,
    redoLabel,
    steps,
    wordsOf,
    step,
    jump,
    edit,
    prepare,
    editDocument,
    settle,
    setComputed,
    takeMeasures,
    replace,
    forget,
    unwrap,
    undo,
    redo,
    save,
    saveNow,
    resolveStale,
    open,
    importMesh,
    rename,
    close,
  }
})
