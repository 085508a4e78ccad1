import type { H3Event } from 'h3'
import { Readable } from 'node:stream'
import { createGzip } from 'node:zlib'
import { blobInfo, blobPieces, CHUNK, getBlob, type BlobInfo } from '../../node/store/blobs'
import { isLocal } from './addresses'
import { refuse } from './requests'
import { useStore } from './store'

/** Small files that were asked for last, in bytes and in all: a stage opens the same ones again and again. */
const KEPT_LARGEST = 4 * CHUNK
const KEPT_ALL = 64 * CHUNK
const kept = new Map<string, { info: BlobInfo; bytes: Buffer }>()
let keptBytes = 0

function keep(hash: string, entry: { info: BlobInfo; bytes: Buffer }): void {
  kept.set(hash, entry)
  keptBytes += entry.bytes.length
  // A map lists its entries as they were put in: the first is the one that was not asked for the longest.
  for (const [oldest, { bytes }] of kept) {
    if (keptBytes <= KEPT_ALL) return
    kept.delete(oldest)
    keptBytes -= bytes.length
  }
}

async function find(hash: string): Promise<{ info: BlobInfo; bytes?: Buffer } | undefined> {
  const known = kept.get(hash)
  if (known) {
    kept.delete(hash)
    kept.set(hash, known)
    return known
  }
  const store = await useStore()
  const info = await blobInfo(store, hash)
  if (!info || info.size > KEPT_LARGEST) return info && { info }
  const blob = await getBlob(store, hash)
  if (!blob) return undefined
  const entry = { info, bytes: blob.bytes }
  if (!kept.has(hash)) keep(hash, entry)
  return entry
}

/** Pictures are compressed as they are; the rest is floats and JSON. */
const compressible = (type: string): boolean => !type.startsWith('image/')

/** Whether an `if-none-match` names the file, alone, in a list, or by `*`. */
const matches = (header: string | undefined, tag: string): boolean =>
  header === '*' || Boolean(header?.split(',').some(t => t.trim().replace(/^W\//, '') === tag))

/**
 * Answers with a file of the database. It never changes, so a browser that has it is told so with 304.
 * @param missing what to say where it is not there
 * @param immutable whether the address itself names the bytes, so that it need not be asked for again
 */
export async function sendBlob(
  event: H3Event,
  hash: string | null | undefined,
  missing: string,
  immutable = true,
): Promise<unknown> {
  const tag = `"${hash}"`
  setResponseHeader(event, 'etag', tag)
  setResponseHeader(event, 'cache-control', immutable ? 'private, max-age=31536000, immutable' : 'private, no-cache')
  setResponseHeader(event, 'vary', 'accept-encoding')
  if (hash && matches(getHeader(event, 'if-none-match'), tag)) {
    setResponseStatus(event, 304)
    return send(event, '')
  }
  const found = hash ? await find(hash) : undefined
  if (!found) {
    removeResponseHeader(event, 'etag')
    setResponseHeader(event, 'cache-control', 'no-store')
    throw refuse(404, missing)
  }
  const { info, bytes } = found
  setResponseHeader(event, 'content-type', info.type)
  // On this machine itself, compressing costs more than it saves.
  const zipped =
    compressible(info.type) &&
    info.size > 1024 &&
    !isLocal(event) &&
    /\bgzip\b/.test(getHeader(event, 'accept-encoding') ?? '')
  if (!zipped) {
    setResponseHeader(event, 'content-length', info.size)
    if (event.method === 'HEAD') return send(event, '')
    return bytes ? send(event, bytes) : sendStream(event, Readable.from(blobPieces(await useStore(), info)))
  }
  setResponseHeader(event, 'content-encoding', 'gzip')
  const source = Readable.from(bytes ? [bytes] : blobPieces(await useStore(), info))
  const gzip = createGzip({ level: 4 })
  source.on('error', error => gzip.destroy(error))
  return sendStream(event, source.pipe(gzip))
}
