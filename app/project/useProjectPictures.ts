import type { Picture } from '#core/evaluate/pictures'
import { decodePicture } from '../collect/pictures'
import { evaluator } from '../shared/evaluation'
import { request } from '../shared/request'
import type { ProjectState } from './useProjectState'
import type { Saving } from './useSaving'

/**
 * The pictures of the open project: to look at, and for nodes.
 * @param added is told of a picture when the worker has it
 */
export function useProjectPictures(
  { meta, lookId, readOnly, opening }: ProjectState,
  saving: Saving,
  added: () => void,
) {
  /** The project's pictures, as their nodes read them. */
  const pictures = shallowRef<readonly Picture[]>([])
  async function readPictures(id: string, asked: string): Promise<void> {
    const mine = opening.value
    const list = await request<{ name: string; hash: string }[]>(`/api/projects/${id}/pictures${asked}`)
    const read = await Promise.all(
      list.map(async ({ name, hash }) =>
        decodePicture(name, new Blob([await request<ArrayBuffer>(`/api/projects/${id}/pictures/${hash}`)])),
      ),
    )
    if (mine === opening.value) pictures.value = read
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
      await saving.save()
      const path = `/api/projects/${id}/pictures?name=${encodeURIComponent(file.name)}&base=${saving.base()}&look=${lookId.value}`
      const kept = await request<{ revision: number }>(path, { method: 'PUT', bytes: file })
      saving.setRevision(kept.revision)
      pictures.value = [...pictures.value.filter(p => p.name !== file.name), picture]
      await sendPictures()
      added()
      return null
    } catch (error) {
      return `${file.name}: ${(error as Error).message}`
    }
  }

  return { pictures, readPictures, pictureFile, sendPictures, addPicture }
}
