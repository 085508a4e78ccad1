import { eq } from 'drizzle-orm'
import { createHash } from 'node:crypto'
import { useDatabase } from '../database/client'
import { blobs } from '../database/schema'

/** Stores bytes under their hash; storing them again costs one look-up. */
export async function putBlob(bytes: Buffer, type: string): Promise<string> {
  const db = await useDatabase(), hash = createHash('sha256').update(bytes).digest('hex')
  await db.insert(blobs).values({ hash, type, size: bytes.length, bytes }).onConflictDoNothing()
  return hash
}

export async function getBlob(hash: string): Promise<{ bytes: Buffer, type: string } | undefined> {
  const db = await useDatabase()
  const [row] = await db.select({ bytes: blobs.bytes, type: blobs.type }).from(blobs).where(eq(blobs.hash, hash))
  return row
}
