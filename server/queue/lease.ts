import { and, asc, eq, isNull, lt, or } from 'drizzle-orm'
import { randomBytes } from 'node:crypto'
import { existsSync } from 'node:fs'
import { readdir, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { folderSize } from '../../node/store/folderSize'
import { deliveries } from '../../node/store/schema'
import type { Store } from '../../node/store/store'
import { cacheFolder, deliveryFolder, folderOf } from '../../node/store/places'

export type DeliveryRow = typeof deliveries.$inferSelect

/** A server that has not said for so long that it makes a delivery has lost it, in milliseconds. */
export const LEASE_LASTS = 15_000
/** How often it says so, in milliseconds. */
export const HEARTBEAT = 2_000
/** How often a delivery is begun that took its server down with it. */
const MOST_TRIES = 3
/** Scraps in the cache that nobody has touched for so long are left from a run that was cut off, in milliseconds. */
const SCRAP_AGE = 3_600_000

const held = (id: string, lease: string) =>
  and(eq(deliveries.id, id), eq(deliveries.lease, lease), eq(deliveries.state, 'running'))

/** Takes the delivery that waits the longest, under a lease of its own. */
export async function claim(store: Store): Promise<(DeliveryRow & { lease: string }) | undefined> {
  // Looked at every few seconds: only what is there is worth the lock.
  const waiting = await store.rows
    .select({ id: deliveries.id })
    .from(deliveries)
    .where(eq(deliveries.state, 'waiting'))
    .limit(1)
  if (!waiting.length) return undefined
  return store.write(async rows => {
    const [next] = await rows
      .select()
      .from(deliveries)
      .where(eq(deliveries.state, 'waiting'))
      .orderBy(asc(deliveries.asked))
      .limit(1)
    if (!next) return undefined
    const lease = randomBytes(6).toString('hex')
    const now = Date.now()
    const taken = {
      state: 'running' as const,
      started: now,
      tries: next.tries + 1,
      message: null,
      lease,
      leaseUntil: now + LEASE_LASTS,
      share: 0,
      what: 'starting',
    }
    await rows.update(deliveries).set(taken).where(eq(deliveries.id, next.id))
    return { ...next, ...taken }
  })
}

/**
 * Says that a delivery is still being made.
 * @returns whether it is still ours: it may have been stopped, or taken over
 */
export async function hold(
  store: Store,
  id: string,
  lease: string,
  progress: { share: number; what: string },
): Promise<boolean> {
  const kept = await store.write(rows =>
    rows
      .update(deliveries)
      .set({ leaseUntil: Date.now() + LEASE_LASTS, ...progress })
      .where(held(id, lease))
      .returning({ id: deliveries.id }),
  )
  return kept.length > 0
}

/** Writes down how a delivery ended, if it is still ours. */
export async function finish(
  store: Store,
  id: string,
  lease: string,
  outcome: Pick<DeliveryRow, 'state' | 'message' | 'bytes'>,
): Promise<boolean> {
  const ended = { ...outcome, ended: Date.now(), lease: null, leaseUntil: null }
  const kept = await store.write(rows =>
    rows.update(deliveries).set(ended).where(held(id, lease)).returning({ id: deliveries.id }),
  )
  return kept.length > 0
}

/** Gives a delivery back, as if it had not been begun. */
export const handBack = (store: Store, id: string, lease: string, tries: number) =>
  store.write(rows =>
    rows
      .update(deliveries)
      .set({ state: 'waiting', tries: tries - 1, lease: null, leaseUntil: null, share: 0, what: '' })
      .where(held(id, lease)),
  )

/** Takes up what servers left that are gone: it waits again, or is given up after too many tries. */
export async function takeOver(store: Store): Promise<void> {
  const gone = and(
    eq(deliveries.state, 'running'),
    or(isNull(deliveries.leaseUntil), lt(deliveries.leaseUntil, Date.now())),
  )
  for (const row of await store.rows.select().from(deliveries).where(gone)) {
    // Its folder appears in one step, so a delivery whose folder is there was complete when its server went.
    const complete = existsSync(join(folderOf(row.id), 'manifest.json'))
    const bytes = complete ? (await folderSize(folderOf(row.id))).bytes : null
    const failed = `The server went away ${row.tries} times while this was made; it is not begun again by itself.`
    const given = { state: 'failed' as const, message: failed, ended: Date.now() }
    const again = row.tries >= MOST_TRIES ? given : { state: 'waiting' as const }
    const next = complete ? { state: 'done' as const, ended: Date.now(), bytes } : again
    await store.write(rows =>
      rows
        .update(deliveries)
        .set({ ...next, lease: null, leaseUntil: null })
        .where(and(eq(deliveries.id, row.id), gone)),
    )
  }
}

/** Removes drafts whose lease has ended, and old scraps of the cache. */
export async function sweep(store: Store): Promise<void> {
  const alive = new Set(
    (await store.rows.select({ lease: deliveries.lease }).from(deliveries).where(eq(deliveries.state, 'running'))).map(
      r => r.lease,
    ),
  )
  for (const name of await readdir(deliveryFolder()).catch(() => [])) {
    const mark = /\.part-([^.]+)$/.exec(name)?.[1]
    if (mark && !alive.has(mark)) await rm(join(deliveryFolder(), name), { recursive: true, force: true })
  }
  for (const name of await readdir(cacheFolder()).catch(() => [])) {
    if (/^[0-9a-f]{64}\.(png|exr)$/.test(name)) continue
    const path = join(cacheFolder(), name)
    const age = await stat(path).then(
      s => Date.now() - s.mtimeMs,
      () => 0,
    )
    if (age > SCRAP_AGE) await rm(path, { force: true })
  }
}
