import { and, asc, desc, eq } from 'drizzle-orm'
import { decode } from 'fast-png'
import { existsSync } from 'node:fs'
import { readdir, rm, stat } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { dirname, join, resolve } from 'node:path'
import { Worker } from 'node:worker_threads'
import { deliverySchema, DeliveryError } from '#core/deliver/settings'
import { rgbaOf } from '#core/evaluate/pictures'
import { picturesIn } from '#core/exchange/lookFile'
import { parseLook } from '#core/graph/look'
import { MAP_WORDS } from '#core/geometry/settings'
import { mapIdOf } from '#core/mesh/preparation'
import { useDatabase } from '../database/client'
import { deliveries, geometryMaps, pictures, projects, revisions } from '../database/schema'
import { deliveryMessageSchema, type DeliveryJob } from '../jobs/deliveryMessages'
import { getBlob } from './blobs'
import { limits } from './limits'
import { keysOf, preparationOf } from './projects'

export type DeliveryRow = typeof deliveries.$inferSelect

/** Where deliveries and the cache of baked pictures lie: UBBLET_DELIVERIES, or beside the database's file. */
export function deliveryFolder(): string {
  const url = process.env.UBBLET_DATABASE ?? 'file:.data/ubblet.db'
  return resolve(process.env.UBBLET_DELIVERIES ?? (url.startsWith('file:') ? join(dirname(url.slice('file:'.length)), 'deliveries') : '.data/deliveries'))
}
const cacheFolder = (): string => join(deliveryFolder(), 'cache')
export const folderOf = (id: string): string => join(deliveryFolder(), id)
/** Baked pictures that are kept, in megabytes: UBBLET_CACHE_MEGABYTES. */
const cacheMegabytes = (): number => Number(process.env.UBBLET_CACHE_MEGABYTES) > 0 ? Number(process.env.UBBLET_CACHE_MEGABYTES) : 8192

/** How often a delivery that was cut off is begun again. */
const MOST_TRIES = 3

interface Running { id: string, worker?: Worker, share: number, what: string, canceled: boolean }
let running: Running | undefined, pumping = false, asked = false

/** A delivery as the interface sees it; while it runs, with how far it is. */
export function deliverySummary(row: DeliveryRow) {
  const live = running?.id === row.id ? { share: running.share, what: running.what } : { share: row.state === 'done' ? 1 : 0, what: '' }
  return { ...row, settings: deliverySchema.parse(JSON.parse(row.settings)), ...live }
}
export type DeliverySummary = ReturnType<typeof deliverySummary>

/** After a start of the server: what was cut off waits again, or is given up; drafts of files are removed. */
export async function recoverDeliveries(): Promise<void> {
  const db = await useDatabase()
  for (const row of await db.select().from(deliveries).where(eq(deliveries.state, 'running'))) {
    // Its folder appears in one step, so a delivery whose folder is there was complete when the server stopped.
    if (existsSync(join(folderOf(row.id), 'manifest.json'))) await finish(row.id, 'done')
    else if (row.tries >= MOST_TRIES) await finish(row.id, 'failed', `The server stopped ${row.tries} times while this was made; it is not begun again by itself.`)
    else await db.update(deliveries).set({ state: 'waiting' }).where(eq(deliveries.id, row.id))
  }
  for (const name of await readdir(deliveryFolder()).catch(() => [])) if (/\.part-/.test(name)) await rm(join(deliveryFolder(), name), { recursive: true, force: true })
  for (const name of await readdir(cacheFolder()).catch(() => [])) if (!/^[0-9a-f]{64}\.(png|exr)$/.test(name)) await rm(join(cacheFolder(), name), { force: true })
  void pump()
}

async function finish(id: string, state: 'done' | 'failed' | 'canceled', message?: string): Promise<void> {
  const db = await useDatabase(), bytes = state === 'done' ? await sizeOf(folderOf(id)) : null
  await db.update(deliveries).set({ state, ended: Date.now(), message: message ?? null, bytes }).where(eq(deliveries.id, id))
}
async function sizeOf(folder: string): Promise<number> {
  let sum = 0
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => [])) if (entry.isFile()) sum += (await stat(join(entry.parentPath, entry.name))).size
  return sum
}

/** Makes what waits, one delivery after the other: each uses all cores. */
export async function pump(): Promise<void> {
  // Asked while the last look at the queue was under way: it is looked at once more.
  asked = true
  if (pumping) return
  pumping = true
  try {
    for (;;) {
      asked = false
      const db = await useDatabase(), [next] = await db.select().from(deliveries).where(eq(deliveries.state, 'waiting')).orderBy(asc(deliveries.asked)).limit(1)
      if (!next && asked) continue
      if (!next) return
      running = { id: next.id, share: 0, what: 'starting', canceled: false }
      await db.update(deliveries).set({ state: 'running', started: Date.now(), tries: next.tries + 1, message: null }).where(eq(deliveries.id, next.id))
      const problem = await make(next, running).catch((error: Error) => error instanceof DeliveryError ? error.message : `The delivery could not be made (${error.message}).`)
      await finish(next.id, running.canceled ? 'canceled' : problem ? 'failed' : 'done', running.canceled ? undefined : problem)
      running = undefined
    }
  }
  finally {
    running = undefined
    pumping = false
  }
}

async function jobOf(row: DeliveryRow): Promise<DeliveryJob> {
  const db = await useDatabase(), [project] = await db.select().from(projects).where(eq(projects.id, row.project))
  const [revision] = await db.select().from(revisions).where(and(eq(revisions.project, row.project), eq(revisions.number, row.revision)))
  const mesh = project?.meshHash && await getBlob(project.meshHash)
  if (!project || !revision || !mesh) throw new DeliveryError('The project has no mesh any more.')
  const look = parseLook(JSON.parse(revision.look)), preparation = preparationOf(revision), wanted = new Set(picturesIn(look))
  const found = (await db.select().from(pictures).where(eq(pictures.project, project.id))).filter(p => wanted.has(p.name)), originals = new Map<string, Uint8Array>()
  const decoded = await Promise.all(found.map(async ({ name, hash, decoded: png }) => {
    const [original, shown] = await Promise.all([getBlob(hash), png ? getBlob(png) : undefined])
    if (original) originals.set(name, new Uint8Array(original.bytes))
    const bytes = shown ?? original
    if (!bytes || bytes.type !== 'image/png') throw new DeliveryError(`The picture ${name} has not been decoded by a browser yet; open the project and deliver from there.`)
    return { name, ...rgbaOf(decode(bytes.bytes)) }
  }))
  const maps = await Promise.all(preparation.maps.map(async (settings) => {
    const [kept] = await db.select().from(geometryMaps).where(eq(geometryMaps.id, mapIdOf(project.meshHash!, preparation, settings))), blob = kept && await getBlob(kept.hash)
    return blob ? { name: settings.name, components: MAP_WORDS[settings.kind].components as number, values: new Float32Array(new Uint8Array(blob.bytes).buffer) } : undefined
  }))
  const keys = await keysOf(project)
  return {
    work: { mesh: { name: project.meshName ?? 'mesh.glb', bytes: new Uint8Array(mesh.bytes) }, preparation, ...(keys && { keys }), maps: maps.filter(m => m !== undefined), pictures: decoded, look, settings: deliverySchema.parse(JSON.parse(row.settings)), limits: limits() },
    folder: folderOf(row.id), name: row.name, revision: row.revision, cache: cacheFolder(), cacheMegabytes: cacheMegabytes(), threads: Math.max(1, Number(process.env.UBBLET_THREADS) || availableParallelism()), originals,
  }
}

/** Runs one delivery on a thread. @returns why it failed, if it did */
async function make(row: DeliveryRow, state: Running): Promise<string | undefined> {
  const job = await jobOf(row), script = join(process.env.UBBLET_HOME ?? process.cwd(), 'dist', 'delivery-job.mjs')
  await rm(folderOf(row.id), { recursive: true, force: true })
  if (state.canceled) return undefined
  return new Promise((resolvePromise) => {
    const worker = state.worker = new Worker(script, { workerData: { role: 'deliver', job }, resourceLimits: { maxOldGenerationSizeMb: 4096 } })
    let outcome: string | undefined
    worker.on('message', (message: unknown) => {
      const told = deliveryMessageSchema.parse(message)
      if ('share' in told) Object.assign(state, { share: Math.max(state.share, told.share), what: told.what })
      else {
        outcome = 'error' in told ? told.error : ''
        void worker.terminate()
      }
    })
    worker.on('error', (error: Error & { code?: string }) => { outcome = error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? 'The delivery does not fit into memory.' : `The delivery could not be made (${error.message}).` })
    worker.on('exit', () => {
      if (state.canceled) void rm(folderOf(row.id), { recursive: true, force: true })
      resolvePromise(outcome === undefined ? 'The delivery was cut off.' : outcome || undefined)
    })
  })
}

/** Stops a delivery that waits or runs. */
export async function cancelDelivery(row: DeliveryRow): Promise<void> {
  if (running?.id === row.id) {
    running.canceled = true
    await running.worker?.terminate()
    for (const name of await readdir(deliveryFolder()).catch(() => [])) if (name.startsWith(`${row.id}.part-`)) await rm(join(deliveryFolder(), name), { recursive: true, force: true })
  }
  else if (row.state === 'waiting') await finish(row.id, 'canceled')
}

export async function listDeliveries(project: string): Promise<DeliverySummary[]> {
  const db = await useDatabase()
  return (await db.select().from(deliveries).where(eq(deliveries.project, project)).orderBy(desc(deliveries.asked))).map(deliverySummary)
}
