import { and, eq, gte } from 'drizzle-orm'
import { createHash } from 'node:crypto'
import { setImmediate as breathe } from 'node:timers/promises'
import { StoreError } from './faults'
import { blobs, chunks } from './schema'
import type { Store } from './store'

/** Bytes of one piece. */
export const CHUNK = 2 ** 20
/** How many pieces one write takes: so long a save may have to wait behind an upload. */
const CHUNKS_AT_ONCE = 4
/** The size of a file whose pieces are still arriving. */
const ARRIVING = -1

/** SHA-256 in hex, letting others have their turn between pieces. */
async function hashOf(bytes: Uint8Array): Promise<string> {
  const hash = createHash('sha256')
  for (let at = 0; at < bytes.length; at += 8 * CHUNK) {
    hash.update(bytes.subarray(at, at + 8 * CHUNK))
    await breathe()
  }
  return hash.digest('hex')
}

/**
 * Keeps bytes under their hash. Keeping them again costs a look. Whoever keeps bytes names them soon after; until then
 * their age protects them from being given back.
 * @returns the SHA-256 of the bytes, in hex
 */
export async function putBlob(store: Store, bytes: Uint8Array, type: string): Promise<string> {
  const hash = await hashOf(bytes)
  const used = Date.now()
  const there = await store.write(async rows => {
    const touched = await rows
      .update(blobs)
      .set({ used })
      .where(and(eq(blobs.hash, hash), gte(blobs.size, 0)))
      .returning({ hash: blobs.hash })
    if (touched.length) return true
    // Its row comes first, with no size yet: pieces without a row would belong to nobody.
    await rows
      .insert(blobs)
      .values({ hash, type, size: ARRIVING, used })
      .onConflictDoUpdate({ target: blobs.hash, set: { used } })
    return false
  })
  if (there) return hash
  const pieces = Math.ceil(bytes.length / CHUNK)
  for (let first = 0; first < pieces; first += CHUNKS_AT_ONCE) {
    await store.write(async rows => {
      for (let number = first; number < Math.min(pieces, first + CHUNKS_AT_ONCE); number++) {
        const piece = Buffer.from(bytes.subarray(number * CHUNK, (number + 1) * CHUNK))
        await rows.insert(chunks).values({ hash, number, bytes: piece }).onConflictDoNothing()
      }
    })
  }
  await store.write(rows =>
    rows.update(blobs).set({ type, size: bytes.length, used: Date.now() }).where(eq(blobs.hash, hash)),
  )
  return hash
}

export interface BlobInfo {
  hash: string
  type: string
  size: number
}

/** What is known of a file; nothing where it is not (wholly) there. */
export async function blobInfo(store: Store, hash: string): Promise<BlobInfo | undefined> {
  const [row] = await store.rows
    .select()
    .from(blobs)
    .where(and(eq(blobs.hash, hash), gte(blobs.size, 0)))
  return row && { hash, type: row.type, size: row.size }
}

/** A file that is not what it was: its bytes have another hash, or some are not there. */
const damaged = (hash: string): StoreError =>
  new StoreError(
    'damaged',
    `File ${hash.slice(0, 12)} of the database is not what it was; a backup brings it back. \`ubblet check\` lists what is damaged.`,
  )

/** One piece of a file, as a view of what the database gave. @throws StoreError where it is missing */
async function piece(store: Store, hash: string, number: number): Promise<Buffer> {
  const [row] = await store.rows
    .select({ bytes: chunks.bytes })
    .from(chunks)
    .where(and(eq(chunks.hash, hash), eq(chunks.number, number)))
  if (!row) throw damaged(hash)
  return row.bytes
}

/**
 * The bytes of a file, piece by piece. The last piece comes only when all of them are known to be what they were.
 * @throws StoreError where they are not
 */
export async function* blobPieces(store: Store, { hash, size }: BlobInfo): AsyncGenerator<Buffer> {
  const sum = createHash('sha256')
  let last: Buffer | undefined
  for (let number = 0; number * CHUNK < size; number++) {
    if (last) yield last
    last = await piece(store, hash, number)
    sum.update(last)
  }
  if (sum.digest('hex') !== hash) throw damaged(hash)
  if (last) yield last
}

/** A whole file in memory. @throws StoreError where it is not what it was */
export async function getBlob(store: Store, hash: string): Promise<{ bytes: Buffer; type: string } | undefined> {
  const info = await blobInfo(store, hash)
  if (!info) return undefined
  const pieces: Buffer[] = []
  for await (const part of blobPieces(store, info)) pieces.push(part)
  return { bytes: pieces.length === 1 ? pieces[0]! : Buffer.concat(pieces, info.size), type: info.type }
}
