import { defineStore } from 'pinia'
import { emptyLook, LookError, parseLook } from '#core/graph/look'
import type { ReadLimits } from '#core/exchange/meshFile'
import { readLookFile } from '#core/exchange/readLookFile'
import { strangersTo } from '#core/mesh/keys'
import { emptyPreparation, parsePreparation, PreparationError } from '#core/mesh/preparation'
import { evaluator } from '../shared/evaluation'
import { request } from '../shared/request'
import { stageIsWorking } from '../stage/turns'
import { dropDraft, keepDraft, orphanedDraft, type Draft } from './drafts'
import type { Found, LookEntry, ProjectDocument, ProjectMeta } from './entries'
import { useEdits } from './useEdits'
import { useFindings } from './useFindings'
import { useIncomingMesh } from './useIncomingMesh'
import { useOpenedMesh } from './useOpenedMesh'
import { useProjectPictures } from './useProjectPictures'
import { useProjectState } from './useProjectState'
import { useSaving } from './useSaving'

const documentOf = ({ look, preparation }: Found): ProjectDocument => ({
  look: parseLook(look),
  preparation: parsePreparation(preparation),
})

/** What there is to say where parts go by other keys than those of the file that a look came from. */
const otherDraws = (strangers: number, parts: number): string =>
  `${strangers} of ${parts} parts have keys that the file's table does not have: this project keeps its own, so they draw anew.`

/**
 * The open project: its mesh, its looks, the one that is open with its history, and what is selected. Saves itself.
 * What it does by subject stands in the files beside this one; here a project is opened, and one of its looks shown.
 */
export const useProject = defineStore('project', () => {
  const state = useProjectState()
  const { meta, lookId, document, look, preparation, limits, busy, failure, viewed, readOnly, opening } = state
  const { pictured, hasPicture } = state
  const saving = useSaving(state)
  const edits = useEdits(state, () => {
    saving.scheduleSave()
    void mesh.applyPreparation()
  })
  const pictures = useProjectPictures(state, saving, () => mesh.retable())
  const mesh = useOpenedMesh(state, () => pictures.pictures.value)
  const checks = useFindings(state, mesh.tables, pictures.pictures)
  const incoming = useIncomingMesh(
    state,
    saving,
    mesh,
    () => openingNow,
    async () => {
      if (pictures.pictures.value.length) await pictures.sendPictures()
    },
  )

  /** All looks of the project, removed ones too. */
  const looks = shallowRef<readonly LookEntry[]>([])
  /** The look that was open first: an address that names none means this one. */
  const arrivedAt = ref('')
  /** What was taken up from an earlier window that could not save it. */
  const takenUp = ref(false)

  /**
   * After a stale save: takes the other state, with ours one undo away, or saves ours over it. Both stay as revisions.
   */
  async function resolveStale(choice: 'mine' | 'theirs'): Promise<void> {
    const id = meta.value!.id
    const latest = await request<Found>(`/api/projects/${id}?look=${lookId.value}`)
    if (choice === 'mine') return saving.saveOver(latest.revision)
    const theirs = documentOf(latest)
    saving.startFrom(theirs, latest.revision)
    edits.takeOver(theirs, "Take the other window's state")
  }

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
    await saving.saveAll()
    close()
    const mine = ++opening.value
    const current = (): boolean => mine === opening.value
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
      // A picture will be awaited from now on: what takes long comes after it.
      stageIsWorking(Boolean(found.mesh))
      // What was not saved may want other geometry maps.
      const coming = found.mesh && mesh.fetchMesh(id, asked, draft ? [] : preparation.value.maps)
      await Promise.all([pictures.readPictures(id, asked), coming])
      if (!current()) return
      if (draft) takeUp(draft)
      if (coming) await mesh.readMesh(await coming)
    } catch (error) {
      if (!current()) return
      stageIsWorking(false)
      failure.value =
        error instanceof LookError || error instanceof PreparationError
          ? `The look cannot be shown: ${error.message}`
          : (error as Error).message
    } finally {
      if (current()) busy.value = ''
    }
  }

  /** Goes on with a look as the server has it. */
  function turnTo(found: Found): void {
    looks.value = found.looks
    lookId.value = found.lookId
    saving.startFrom(edits.turnTo(found.lookId, documentOf(found)), found.revision)
    pictured.value = found.pictured ? { document: document.value, mesh: found.mesh?.hash } : undefined
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
    const before = opening.value
    const current = (): boolean => mine === turning && before === opening.value
    try {
      await saving.saveNow()
      const [found, draft] = await Promise.all([
        request<Found>(`/api/projects/${project}?look=${id}`),
        orphanedDraft(project, id),
      ])
      if (!current()) return undefined
      if (viewed.value || found.mesh?.hash !== meta.value?.mesh?.hash) {
        await open(project, undefined, id)
        return undefined
      }
      await saving.saveNow()
      edits.layAside(lookId.value)
      turnTo(found)
      if (draft) takeUp(draft)
      await mesh.applyPreparation()
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
    saving.goOnFrom(base)
    edits.editDocument('Take up what was not saved', () => ({ look, preparation }))
    edits.settle()
    // Kept under this window's name from now on.
    void keepDraft(draft.project, lookId.value, base, document.value).then(kept =>
      kept ? dropDraft(draft.project, draft.lookId, window) : undefined,
    )
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
        keys,
        report,
      } = readLookFile(file.name, new Uint8Array(await file.arrayBuffer()), limits.value)
      for (const p of along) {
        const problem = await pictures.addPicture(new File([p.bytes as Uint8Array<ArrayBuffer>], p.name))
        if (problem) return { error: problem }
      }
      edits.edit(`Bring in ${file.name}`, () => next)
      edits.settle()
      const parts = mesh.opened.value?.parts
      const strangers = keys && parts ? strangersTo(keys, parts) : 0
      return { ok: strangers ? [...report, otherDraws(strangers, parts!.parts.length)] : report }
    } catch (error) {
      return { error: `${file.name}: ${(error as Error).message}` }
    }
  }

  /** Makes the project what it was in an old revision, as a new one, and opens it. */
  async function restore(number: number): Promise<void> {
    const { id } = meta.value!
    await saving.save()
    const at = `/api/projects/${id}`
    const latest = viewed.value ? (await request<Found>(`${at}?look=${lookId.value}`)).revision : saving.base()
    await request(`${at}/revisions/${number}/restore`, { method: 'POST', json: { base: latest } })
    await open(id, undefined, lookId.value)
  }

  /** Locks the project against changes, or unlocks it. */
  async function lock(locked: boolean): Promise<void> {
    if (locked) await saving.save()
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
    saving.stop()
    opening.value++
    looks.value = []
    lookId.value = arrivedAt.value = ''
    viewed.value = undefined
    takenUp.value = false
    meta.value = undefined
    mesh.close()
    checks.forget()
    incoming.incoming.value = undefined
    pictures.pictures.value = []
    failure.value = ''
    edits.beginWith({ look: emptyLook(), preparation: emptyPreparation() })
  }

  const { saveState, saveError, signedOut, newest, setRevision, save, saveNow } = saving
  const { scope, page, selected, picking, undoLabel, redoLabel, steps, step } = edits
  const { wordsOf, enter, editDocument, edit, editPage, prepare, settle, undo, redo, jump } = edits
  const { tables, opened, arranged, prepared, diagonal, mapNames, setComputed, takeMeasures } = mesh
  const { pictures: shown, pictureFile, addPicture } = pictures
  const { findings, texels } = checks
  const { incoming: considered, importMesh, replace, forget, unwrap } = incoming
  return {
    ...{ meta, look, preparation, limits, busy, failure, viewed, readOnly, takenUp, hasPicture },
    ...{ looks, lookId, arrivedAt, open, showLook, restore, resolveStale, lock, heard, rename, close, takeLook },
    ...{ saveState, saveError, signedOut, newest, setRevision, save, saveNow },
    ...{ scope, page, selected, picking, undoLabel, redoLabel, steps, step },
    ...{ wordsOf, enter, editDocument, edit, editPage, prepare, settle, undo, redo, jump },
    ...{ tables, opened, arranged, prepared, diagonal, mapNames, setComputed, takeMeasures },
    ...{ pictures: shown, pictureFile, addPicture },
    ...{ findings, texels },
    ...{ incoming: considered, importMesh, replace, forget, unwrap },
  }
})
