import { request, RequestError } from '../shared/request'
import { dropDraft, keepDraft } from './drafts'
import type { ProjectDocument, SaveState } from './entries'
import type { ProjectState } from './useProjectState'

/** How long the hands must rest before a save, and how long to wait for a lost server, in milliseconds. */
const SAVE_AFTER = 700
const RETRY_AFTER = 3000

/** Saves the document of the open project after each edit, and keeps it in the browser where that cannot be done. */
export function useSaving({ meta, lookId, document, viewed }: ProjectState) {
  const saveState = ref<SaveState>('saved')
  const saveError = ref('')
  /** Whether the server does not save because it does not know any more who sits here. */
  const signedOut = ref(false)
  /** The newest revision that this window knows. */
  const newest = ref(0)
  /** The revision that the document goes on from: the server tells by it whether the look was saved since. */
  let base = 0
  let saved: ProjectDocument | undefined
  let timer: ReturnType<typeof setTimeout> | undefined
  let saving: Promise<void> | undefined

  /** Has the browser keep what is not saved, so that closing the window loses nothing. */
  function keep(): void {
    const id = meta.value?.id
    if (id && document.value !== saved && !viewed.value) void keepDraft(id, lookId.value, base, document.value)
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
    saving = send(id, of, sent)
    await saving
  }

  async function send(id: string, of: string, sent: ProjectDocument): Promise<void> {
    try {
      const path = `/api/projects/${id}/look?look=${of}`
      const answer = await request<{ revision: number }>(path, { method: 'PUT', json: { base, ...sent } })
      setRevision(answer.revision)
      saved = sent
      signedOut.value = false
      saveState.value = 'saved'
      saveError.value = ''
      if (document.value !== sent) scheduleSave()
      else void dropDraft(id, of)
    } catch (error) {
      const status = error instanceof RequestError ? error.status : 0
      saveError.value = (error as Error).message
      signedOut.value = status === 401
      const later = status === 0 || status === 401 || status === 429 || status >= 500
      if (status === 409) saveState.value = 'stale'
      else saveState.value = later ? 'offline' : 'refused'
      keep()
      if (saveState.value === 'offline') timer = setTimeout(() => void save(), RETRY_AFTER)
    } finally {
      saving = undefined
    }
  }

  /** Saves until nothing is left to save; what cannot be saved now, the browser keeps. */
  async function saveAll(): Promise<void> {
    await save()
    while (meta.value && document.value !== saved && saveState.value === 'waiting') await save()
    keep()
  }

  function setRevision(number: number): void {
    base = number
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
    return base
  }

  /** Goes on from a document that is saved as this revision. */
  function startFrom(state: ProjectDocument, revision: number): void {
    setRevision(revision)
    saved = state
    saveState.value = 'saved'
  }
  /** Goes on from another revision than the newest, as what was not saved did. */
  function goOnFrom(revision: number): void {
    base = revision
  }
  /** Saves the document over a newer revision than it goes on from. */
  function saveOver(revision: number): void {
    setRevision(revision)
    saveState.value = 'saved'
    saved = undefined
    scheduleSave(0)
  }
  function stop(): void {
    clearTimeout(timer)
    saveState.value = 'saved'
  }

  return {
    saveState,
    saveError,
    signedOut,
    newest,
    base: () => base,
    setRevision,
    scheduleSave,
    save,
    saveAll,
    saveNow,
    startFrom,
    goOnFrom,
    saveOver,
    stop,
  }
}
export type Saving = ReturnType<typeof useSaving>
