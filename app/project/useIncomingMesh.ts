import * as Comlink from 'comlink'
import type { Replacement } from '#core/evaluate/replacement'
import { evaluator } from '../shared/evaluation'
import { oneFile } from '../shared/oneFile'
import { request } from '../shared/request'
import type { ProjectMeta } from './entries'
import type { OpenedMesh } from './useOpenedMesh'
import type { ProjectState } from './useProjectState'
import type { Saving } from './useSaving'

/** What is said while a file is read; by tens, since each is read out where somebody listens. */
const readingOf = (name: string, share: number): string =>
  share < 1 ? `Reading ${name}, ${Math.floor(share * 10) * 10} %` : `Finding the parts of ${name}`

/**
 * Brings mesh files into the open project: they are read and compared first, and only then stored.
 * @param arriving waits for the project that is just being opened
 * @param sendPictures has the worker know the pictures, for which it looks anew with each mesh
 */
export function useIncomingMesh(
  { meta, lookId, limits, busy, readOnly }: ProjectState,
  saving: Saving,
  mesh: OpenedMesh,
  arriving: () => Promise<void> | undefined,
  sendPictures: () => Promise<void>,
) {
  /**
   * Reads mesh files that are to come into the project. Until the reading has worked, nothing changes. Where there is a
   * mesh already, the answer says how the parts match, and `replace` or `forget` decides.
   */
  const incoming = shallowRef<{ name: string; bytes: ArrayBuffer; found: Replacement }>()
  async function importMesh(files: readonly File[], progress: (share: number) => void): Promise<string | null> {
    if (!meta.value) await arriving()
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
      const file = await oneFile(files)
      return await consider(file.name, await file.arrayBuffer(), progress)
    } catch (error) {
      return `${named}: ${(error as Error).message}`
    } finally {
      busy.value = ''
    }
  }
  async function consider(name: string, bytes: ArrayBuffer, progress: (share: number) => void): Promise<string | null> {
    const keys = meta.value!.mesh ? await mesh.keysOf(meta.value!.id) : null
    const copy = bytes.slice(0)
    let isOver = false
    const told = Comlink.proxy((share: number) => {
      if (!isOver) busy.value = readingOf(name, share)
    })
    const answer = await evaluator.compare(Comlink.transfer(copy, [copy]), mesh.fileOf(name, keys), told)
    isOver = true
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
      await saving.save()
      const stored = await request<ProjectMeta & { revision: number }>(
        `/api/projects/${id}/mesh?name=${encodeURIComponent(name)}&base=${saving.base()}&look=${lookId.value}`,
        { method: 'PUT', bytes, progress },
      )
      meta.value = stored
      saving.setRevision(stored.revision)
      incoming.value = undefined
      const answer = await evaluator.adopt()
      await sendPictures()
      mesh.taken(answer)
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

  return { incoming, importMesh, replace, forget, unwrap }
}
