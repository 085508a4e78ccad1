import { LookError, parseLook, type Look } from '../graph/look'
import type { KeyTable } from '../mesh/keys'
import { unpackLook } from './lookFile'
import { MeshFileError, type ReadLimits } from './meshFile'
import { readMaterialX } from './readMaterialX'
import { unzip } from './unzip'

declare class TextDecoder {
  decode(bytes: Uint8Array): string
}
/** Endings of the files that hold a look. */
export const LOOK_ENDINGS = ['.look.json', '.look.zip', '.mtlx'] as const

/** A look from a file, with the pictures that came with it, and what of a material document could not be taken over. */
export interface LookFile {
  look: Look
  pictures: { name: string; bytes: Uint8Array }[]
  /** The key table of the mesh that it was made for. */
  keys?: KeyTable
  report: string[]
}

/**
 * Reads a look file, a look with its pictures in a zip, or a MaterialX document, told apart by the ending.
 * @throws LookError with one sentence
 */
export function readLookFile(name: string, bytes: Uint8Array, limits: ReadLimits): LookFile {
  if (/\.mtlx$/i.test(name))
    return { pictures: [], ...readMaterialX(new TextDecoder().decode(bytes), name.replace(/\.mtlx$/i, '')) }
  if (/\.zip$/i.test(name)) {
    try {
      return { report: [], ...unpackLook(Object.fromEntries(unzip(bytes, limits))) }
    } catch (error) {
      throw error instanceof MeshFileError ? new LookError(error.message) : error
    }
  }
  let data: unknown
  try {
    data = JSON.parse(new TextDecoder().decode(bytes))
  } catch {
    throw new LookError('This is not a look: it is not JSON.')
  }
  return { look: parseLook(data), pictures: [], report: [] }
}
