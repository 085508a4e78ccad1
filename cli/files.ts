import { randomBytes } from 'node:crypto'
import { mkdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { DeliveryError } from '../core/deliver/settings'
import { LookError } from '../core/graph/look'
import { KeyTableError } from '../core/mesh/keys'
import { PreparationError } from '../core/mesh/preparation'
import { UsageError } from './usage'

const REASONS: Record<string, string> = {
  ENOENT: 'there is no such file',
  ENOTDIR: 'there is no such file',
  EISDIR: 'it is a folder',
  EACCES: 'no permission',
}

const NO_FOLDER = 'a file stands where a folder should be'
const WRITE_REASONS: Record<string, string> = {
  EEXIST: NO_FOLDER,
  ENOTDIR: NO_FOLDER,
  EISDIR: 'it is a folder',
  EACCES: 'no permission',
  EPERM: 'no permission',
  EROFS: 'the disk can only be read',
  ENOSPC: 'the disk is full',
  EDQUOT: 'the disk has no more room for this user',
}

/** What is said where a file or folder cannot be written: why, in words, or as the system says it. */
export const unwritten = (path: string, { code = '', message = '' }: { code?: string; message?: string }): UsageError =>
  new UsageError(`${path} cannot be written: ${WRITE_REASONS[code] ?? message.split(',')[0]}.`)

/**
 * Looks at the place of a file before the work for it begins.
 * @throws UsageError where a folder is there, or a file stands in the way to it
 */
export async function lookAhead(path: string): Promise<void> {
  const found = await stat(path).catch((error: NodeJS.ErrnoException) => {
    if (error.code !== 'ENOENT') throw unwritten(path, error)
    return undefined
  })
  if (found?.isDirectory()) throw unwritten(path, { code: 'EISDIR' })
}

/** A file's bytes. @throws UsageError where it cannot be read, or is none: a pipe or a device may never end */
export async function file(path: string): Promise<Uint8Array> {
  try {
    const found = await stat(path)
    if (!found.isFile() && !found.isDirectory())
      throw new UsageError(`${path}: it is a pipe or a device; save it as a file first.`)
    return new Uint8Array(await readFile(path))
  } catch (error) {
    if (error instanceof UsageError) throw error
    throw new UsageError(`${path}: ${REASONS[(error as NodeJS.ErrnoException).code ?? ''] ?? 'it cannot be read'}.`)
  }
}

/** Writes beside the target first, so that a file appears only when it is complete. */
export async function write(path: string, data: Uint8Array | string): Promise<void> {
  const partial = join(dirname(path), `.${basename(path)}.${randomBytes(3).toString('hex')}.part`)
  try {
    await mkdir(dirname(path), { recursive: true })
    await writeFile(partial, data)
    await rename(partial, path)
  } catch (error) {
    await rm(partial, { force: true }).catch(() => {})
    throw unwritten(path, error as NodeJS.ErrnoException)
  }
}

/** Errors of readers of documents, whose message is one sentence for the artist. */
const DOCUMENT_ERRORS = [LookError, PreparationError, DeliveryError, KeyTableError]

/** Reads a JSON document through its own reader, whose errors name the file. */
export async function documentOf<T>(path: string, what: string, parse: (data: unknown) => T): Promise<T> {
  const bytes = await file(path)
  let data: unknown
  try {
    data = JSON.parse(new TextDecoder().decode(bytes))
  } catch {
    throw new UsageError(`${path}: This is not a ${what}: it is not JSON.`)
  }
  try {
    return parse(data)
  } catch (error) {
    if (DOCUMENT_ERRORS.some(kind => error instanceof kind))
      throw new UsageError(`${path}: ${(error as Error).message}`)
    throw error
  }
}
