import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { stat } from 'node:fs/promises'
import { pipeline } from 'node:stream/promises'

export const sha256 = (data: string | Uint8Array): string => createHash('sha256').update(data).digest('hex')
export async function hashFile(path: string): Promise<{ bytes: number; sha256: string }> {
  const hash = createHash('sha256')
  await pipeline(createReadStream(path), hash)
  return { bytes: (await stat(path)).size, sha256: hash.digest('hex') }
}
