import { unzipSync, type UnzipFileInfo } from 'fflate'
import { fail, megabytes, MeshFileError, type ReadLimits } from './meshFile'

/**
 * The files of a zip by path. What the directory claims is checked before anything is unpacked, and unpacking stops at
 * the claimed size, so a small zip cannot fill the memory.
 */
export function unzip(bytes: Uint8Array, limits: ReadLimits): Map<string, Uint8Array> {
  let total = 0
  let files = 0
  const allow = (file: UnzipFileInfo): boolean => {
    if (file.name.endsWith('/') || /(^|\/)(__MACOSX|\.)/.test(file.name)) return false
    total += file.originalSize
    if (++files > 4096) fail('The zip holds more than 4,096 files.')
    if (total > limits.bytes) fail(`Unpacked, the zip has more than ${megabytes(limits.bytes)}, which is the limit.`)
    if (file.compression !== 0 && file.compression !== 8)
      fail(`"${file.name}" in the zip is packed in a way that cannot be read.`)
    return true
  }
  try {
    return new Map(
      Object.entries(unzipSync(bytes, { filter: allow })).map(([name, data]) => [name.replaceAll('\\', '/'), data]),
    )
  } catch (error) {
    if (error instanceof MeshFileError) throw error
    return fail('The zip is damaged.')
  }
}
