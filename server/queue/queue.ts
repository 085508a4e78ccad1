import { and, desc, eq, inArray } from 'drizzle-orm'
import { rm } from 'node:fs/promises'
import { setTimeout as wait } from 'node:timers/promises'
import type { Worker } from 'node:worker_threads'
import { deliverySchema, DeliveryError } from '#core/deliver/settings'
import { deliveryMessageSchema } from '../jobs/deliveryMessages'
import { told } from '../../node/store/faults'
import { folderSize } from '../../node/store/folderSize'
import { deliveries } from '../../node/store/schema'
import type { Store } from '../../node/store/store'
import { OutOfMemory, startThread } from '../../node/thread'
import { folderOf } from '../../node/store/places'
import { log } from '../utils/log'
import { refuse } from '../utils/requests'
import { scriptOf } from '../utils/scripts'
import { useRows, useStore, write } from '../utils/store'
import { jobOf } from './job'
import { claim, finish, handBack, HEARTBEAT, hold, sweep, takeOver, type DeliveryRow } from './lease'

/**
 * How often the queue is looked at without being asked to: for what another server was asked for, or left. In
 * milliseconds.
 */
const LOOK_EVERY = 3_000
/** The pause before an outcome that could not be written is written again, in milliseconds. */
const WRITE_AGAIN = 1_000

/** The delivery that this server makes now. */
interface Running {
  row: DeliveryRow & { lease: string }
  share: number
  what: string
  worker?: Worker
  /** Why it is not to be finished: somebody stopped it, somebody else has it, or the server stops. */
  ended?: 'canceled' | 'lost' | 'stopping'
}
let running: Running | undefined
let pumping: Promise<void> | undefined
let asked = false
let stopping = false
let ticking: ReturnType<typeof setInterval> | undefined

/** A delivery as the interface sees it; while it runs, with how far it is. */
export function deliverySummary(row: DeliveryRow) {
  const { lease: _, leaseUntil: __, ...shown } = row
  const here = running?.row.id === row.id && row.state === 'running' ? { share: running.share, what: running.what } : {}
  const share = row.state === 'done' ? 1 : row.share
  return { ...shown, settings: deliverySchema.parse(JSON.parse(row.settings)), share, ...here }
}

/** Begins to look after the queue. */
export function startQueue(): void {
  ticking = setInterval(() => void pump(), LOOK_EVERY)
  ticking.unref()
  void pump()
}

/** Stops at once: what runs waits again, without a try being counted. */
export async function stopQueue(): Promise<void> {
  stopping = true
  clearInterval(ticking)
  if (running) await end(running, 'stopping')
  await pumping
}

async function end(of: Running, why: NonNullable<Running['ended']>): Promise<void> {
  of.ended ??= why
  await of.worker?.terminate()
}

/** Makes what waits, one delivery after the other: each uses all cores. */
export async function pump(): Promise<void> {
  // Asked while the last look at the queue was under way: it is looked at once more.
  asked = true
  pumping ??= drain()
    .catch((error: unknown) => log.error({ err: error }, 'the queue of deliveries stopped; it is looked at again'))
    .finally(() => {
      pumping = undefined
    })
  await pumping
}

async function drain(): Promise<void> {
  const store = await useStore()
  while (asked && !stopping) {
    asked = false
    await takeOver(store)
    await sweep(store)
    for (let row = await claim(store); row; row = stopping ? undefined : await claim(store)) {
      running = { row, share: 0, what: 'starting' }
      if (stopping) running.ended = 'stopping'
      await make(store, running).finally(() => {
        running = undefined
      })
    }
  }
}

/** Makes one delivery and writes down how it ended. */
async function make(store: Store, now: Running): Promise<void> {
  const { id, lease, name } = now.row
  const heart = setInterval(() => {
    hold(store, id, lease, { share: now.share, what: now.what }).then(
      ours => (ours ? undefined : end(now, 'lost')),
      (error: unknown) => log.warn({ err: error, delivery: id }, 'a delivery could not say that it is being made'),
    )
  }, HEARTBEAT)
  try {
    const problem = await work(store, now).catch((error: unknown) => problemOf(error))
    if (now.ended === 'stopping') return void (await handBack(store, id, lease, now.row.tries))
    if (now.ended) return void (await forget(store, now))
    if (problem) log.error({ delivery: id, name, problem }, 'a delivery failed')
    const outcome = problem
      ? { state: 'failed' as const, message: problem, bytes: null }
      : { state: 'done' as const, message: null, bytes: (await folderSize(folderOf(id))).bytes }
    await settle(store, now, outcome)
  } finally {
    clearInterval(heart)
  }
}

/** An error of the server's own in one sentence; of the database, in its own. */
function problemOf(error: unknown): string {
  const known = told(error) as Error
  return known instanceof DeliveryError || known !== error
    ? known.message
    : `The delivery could not be made (${known.message}).`
}

/**
 * Writes how a delivery ended, however long that takes: until then it still runs, and says that it waits for the
 * database.
 */
async function settle(store: Store, now: Running, outcome: Parameters<typeof finish>[3]): Promise<void> {
  const { id, lease } = now.row
  while (!stopping) {
    try {
      const ours = await finish(store, id, lease, outcome)
      // Stopped in the last moment: then its files go, too.
      if (!ours) await forget(store, now)
      return
    } catch (error) {
      now.what = 'waiting until the database can be written'
      log.warn({ err: error, delivery: id }, 'the end of a delivery could not be written; it is tried again')
      await wait(WRITE_AGAIN)
    }
  }
}

/** Removes what is left of a delivery that was stopped. What another server has taken over is that server's. */
async function forget(store: Store, { row }: Running): Promise<void> {
  const [now] = await store.rows.select().from(deliveries).where(eq(deliveries.id, row.id))
  if (!now || now.state === 'canceled') await rm(folderOf(row.id), { recursive: true, force: true })
  await rm(`${folderOf(row.id)}.part-${row.lease}`, { recursive: true, force: true })
}

/** Runs one delivery on a thread. @returns why it failed, if it did */
async function work(store: Store, now: Running): Promise<string | undefined> {
  const { id, lease } = now.row
  const job = await jobOf(store, now.row, lease)
  await rm(folderOf(id), { recursive: true, force: true })
  if (now.ended) return undefined
  return new Promise(resolve => {
    let outcome: string | undefined
    const worker = startThread(
      scriptOf('delivery-job'),
      { role: 'deliver', job },
      {
        answers: deliveryMessageSchema,
        hear: said => {
          if ('share' in said) {
            now.share = Math.max(now.share, said.share)
            now.what = said.what
            return
          }
          outcome = 'error' in said ? said.error : ''
          void worker.terminate()
        },
        fail: error => {
          outcome =
            error instanceof OutOfMemory
              ? 'The delivery does not fit into memory.'
              : `The delivery could not be made (${error.message}).`
          void worker.terminate()
        },
        megabytes: 4096,
      },
    )
    now.worker = worker
    worker.on('exit', () => resolve(outcome ?? 'The delivery was cut off.'))
  })
}

/** Stops a delivery that waits or runs, here or on another server. @throws H3Error where it has ended already */
export async function cancelDelivery(row: DeliveryRow): Promise<DeliveryRow> {
  const set = { state: 'canceled' as const, ended: Date.now(), message: null, lease: null, leaseUntil: null }
  const open = and(eq(deliveries.id, row.id), inArray(deliveries.state, ['waiting', 'running']))
  const [stopped] = await write(rows => rows.update(deliveries).set(set).where(open).returning())
  if (running?.row.id === row.id) await end(running, 'canceled')
  if (stopped) return stopped
  const [now] = await (await useRows()).select().from(deliveries).where(eq(deliveries.id, row.id))
  throw refuse(
    409,
    now ? `This delivery has ended already: it is ${now.state}.` : 'There is no such delivery any more.',
  )
}

/** Has a delivery made again that failed or was stopped. @throws H3Error where it neither failed nor was stopped */
export async function againDelivery(row: DeliveryRow): Promise<DeliveryRow> {
  const set = { state: 'waiting' as const, tries: 0, message: null, ended: null, share: 0, what: '' }
  const ended = and(eq(deliveries.id, row.id), inArray(deliveries.state, ['failed', 'canceled']))
  const [waits] = await write(rows => rows.update(deliveries).set(set).where(ended).returning())
  if (!waits) throw refuse(409, 'This delivery neither failed nor was stopped.')
  void pump()
  return waits
}

/** Forgets a delivery and removes its files; one that runs is stopped first. */
export async function removeDelivery(row: DeliveryRow): Promise<void> {
  await write(rows => rows.delete(deliveries).where(eq(deliveries.id, row.id)))
  if (running?.row.id === row.id) await end(running, 'canceled')
  await rm(folderOf(row.id), { recursive: true, force: true })
}

export async function listDeliveries(project: string) {
  const rows = await useRows()
  return (
    await rows.select().from(deliveries).where(eq(deliveries.project, project)).orderBy(desc(deliveries.asked))
  ).map(deliverySummary)
}

/** What the queue holds, for those who watch over the server. */
export async function queueState() {
  const rows = await useRows()
  const open = await rows
    .select({ state: deliveries.state })
    .from(deliveries)
    .where(inArray(deliveries.state, ['waiting', 'running']))
  return {
    waiting: open.filter(d => d.state === 'waiting').length,
    running: open.filter(d => d.state === 'running').length,
  }
}
