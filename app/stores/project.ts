import { refDebounced } from '@vueuse/core'
import { defineStore } from 'pinia'
import { check, type Finding } from '#core/graph/check'
import { nodeOf } from '#core/graph/ports'
import { emptyLook, LookError, parseLook, type Look } from '#core/graph/look'
import { READ_LIMITS } from '#core/exchange/readGlb'
import { meshTables, type MeshTables } from '#core/evaluate/tables'
import { History } from '../history'
import { evaluator } from '../evaluation'
import { request, RequestError } from '../request'

export type SaveState = 'saved' | 'waiting' | 'saving' | 'offline' | 'stale' | 'refused'

export interface ProjectMeta {
  id: string
  name: string
  created: number
  changed: number
  removed: number | null
  triangles: number | null
  parts: number | null
  mesh: { hash: string, name: string } | null
  thumbnail: string | null
}

/** How long the hands must rest before a save, and how long to wait for a lost server, in milliseconds. */
const SAVE_AFTER = 700, RETRY_AFTER = 3000

/** The open project: its mesh, its look with history, and what is selected. Saves itself. */
export const useProject = defineStore('project', () => {
  const meta = shallowRef<ProjectMeta>()
  const tables = shallowRef<MeshTables>()
  const look = shallowRef<Look>(emptyLook())
  const history = new History(look.value)
  /** Counts history's changes, so that what is shown of it follows. */
  const historyTick = ref(0)
  const selected = ref<string[]>([])
  /** What is going on, in words; empty when nothing is. */
  const busy = ref('')
  const failure = ref('')
  const saveState = ref<SaveState>('saved')
  const saveError = ref('')

  let revision = 0, savedLook: Look | undefined, timer: ReturnType<typeof setTimeout> | undefined, saving: Promise<void> | undefined

  // The checks follow when the hands rest: while a number is dragged they would cost every frame.
  const rested = refDebounced(look, 120)
  const findings = computed<Finding[]>(() => check(rested.value, tables.value?.mesh.maps.map(m => m.name)))
  const undoLabel = computed(() => historyTick.value >= 0 ? history.undoLabel : undefined)
  const redoLabel = computed(() => historyTick.value >= 0 ? history.redoLabel : undefined)

  function show(next: Look): void {
    look.value = next
    historyTick.value++
    if (selected.value.some(id => !nodeOf(next, id))) selected.value = selected.value.filter(id => nodeOf(next, id))
    scheduleSave()
  }

  /**
   * Makes an edit. `merge` names a gesture: edits with the same name that follow one another count as one step to undo,
   * until `settle` ends it.
   */
  function edit(label: string, change: (look: Look) => Look, merge?: string): void {
    const next = change(look.value)
    if (next === look.value) return
    history.push(next, label, merge)
    show(next)
  }
  const settle = (): void => history.settle()
  function undo(): void {
    const back = history.undo()
    if (back) show(back)
  }
  function redo(): void {
    const forth = history.redo()
    if (forth) show(forth)
  }

  function scheduleSave(delay = SAVE_AFTER): void {
    if (!meta.value || saveState.value === 'stale') return
    if (look.value === savedLook) {
      saveState.value = 'saved'
      return
    }
    if (saveState.value !== 'offline') saveState.value = 'waiting'
    clearTimeout(timer)
    timer = setTimeout(() => void save(), delay)
  }

  /** Saves now, after any save under way. */
  async function save(): Promise<void> {
    clearTimeout(timer)
    await saving
    const id = meta.value?.id, sent = look.value
    if (!id || sent === savedLook || saveState.value === 'stale') return
    if (saveState.value !== 'offline') saveState.value = 'saving'
    saving = request<{ revision: number }>(`/api/projects/${id}/look`, { method: 'PUT', json: { base: revision, look: sent } })
      .then((answer) => {
        revision = answer.revision
        savedLook = sent
        saveState.value = 'saved'
        saveError.value = ''
        if (look.value !== sent) scheduleSave()
      }, (error: unknown) => {
        const status = error instanceof RequestError ? error.status : 0
        saveError.value = (error as Error).message
        saveState.value = status === 409 ? 'stale' : status === 0 || status >= 500 ? 'offline' : 'refused'
        if (saveState.value === 'offline') timer = setTimeout(() => void save(), RETRY_AFTER)
      })
    await saving
  }

  /** After a stale save: takes the other state, with ours one undo away, or saves ours over it. Both stay as revisions. */
  async function resolveStale(keep: 'mine' | 'theirs'): Promise<void> {
    const id = meta.value!.id, latest = await request<{ revision: number, look: unknown }>(`/api/projects/${id}`)
    revision = latest.revision
    saveState.value = 'saved'
    if (keep === 'theirs') {
      const theirs = parseLook(latest.look)
      savedLook = theirs
      history.push(theirs, 'Take the other window\'s state')
      show(theirs)
    }
    else {
      savedLook = undefined
      scheduleSave(0)
    }
  }

  /** Opens a project. What was open is saved first. */
  async function open(id: string): Promise<void> {
    close()
    busy.value = 'Opening the project'
    try {
      const found = await request<ProjectMeta & { revision: number, look: unknown }>(`/api/projects/${id}`)
      meta.value = found
      revision = found.revision
      const document = parseLook(found.look)
      savedLook = document
      history.reset(document)
      look.value = document
      historyTick.value++
      saveState.value = 'saved'
      if (found.mesh) {
        busy.value = 'Fetching the mesh'
        await readMesh(await request<ArrayBuffer>(`/api/projects/${id}/mesh`))
      }
    }
    catch (error) {
      failure.value = error instanceof LookError ? `The look cannot be shown: ${error.message}` : (error as Error).message
    }
    finally {
      busy.value = ''
    }
  }

  async function readMesh(bytes: ArrayBuffer): Promise<void> {
    busy.value = 'Reading the mesh and finding its parts'
    const answer = await evaluator.open(bytes)
    if ('error' in answer) throw new Error(answer.error)
    tables.value = markRaw(meshTables(answer.ok.mesh, answer.ok.parts))
  }

  /** Brings a mesh in from a file. Until all of it is read and stored, the project stays as it was. */
  async function importMesh(file: File, progress: (share: number) => void): Promise<string | null> {
    const id = meta.value?.id
    if (!id) return 'No project is open.'
    if (file.size > READ_LIMITS.bytes) return `${file.name}: the file has ${Math.round(file.size / 2 ** 20)} MB; the limit is ${READ_LIMITS.bytes / 2 ** 20} MB.`
    try {
      busy.value = `Reading ${file.name}`
      const bytes = await file.arrayBuffer()
      const answer = await evaluator.open(bytes.slice(0))
      if ('error' in answer) {
        // The worker keeps the last mesh that it could read, so nothing has changed.
        return `${file.name}: ${answer.error}`
      }
      busy.value = `Storing ${file.name}`
      try {
        meta.value = await request<ProjectMeta>(`/api/projects/${id}/mesh?name=${encodeURIComponent(file.name)}`, { method: 'PUT', bytes, progress })
      }
      catch (error) {
        if (meta.value?.mesh) await readMesh(await request<ArrayBuffer>(`/api/projects/${id}/mesh`))
        return `${file.name}: ${(error as Error).message}`
      }
      tables.value = markRaw(meshTables(answer.ok.mesh, answer.ok.parts))
      return null
    }
    finally {
      busy.value = ''
    }
  }

  async function rename(name: string): Promise<void> {
    if (!meta.value || !name.trim() || name === meta.value.name) return
    meta.value = { ...meta.value, ...await request<ProjectMeta>(`/api/projects/${meta.value.id}`, { method: 'PATCH', json: { name } }) }
  }

  function close(): void {
    clearTimeout(timer)
    meta.value = undefined
    tables.value = undefined
    selected.value = []
    failure.value = ''
    saveState.value = 'saved'
    history.reset(emptyLook())
    look.value = emptyLook()
  }

  return { meta, tables, look, selected, busy, failure, saveState, saveError, findings, undoLabel, redoLabel, edit, settle, undo, redo, save, resolveStale, open, importMesh, rename, close }
})
