import { group } from 'd3-array'
import { and, eq, inArray, isNotNull, lt, lte, notInArray, sql } from 'drizzle-orm'
import { readdir, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { mapIdOf, parsePreparation } from '../../core/mesh/preparation'
import { folderSize } from './folderSize'
import {
  blobs,
  chunks,
  deliveries,
  denseMeshes,
  geometryMaps,
  grants,
  lights,
  looks,
  pictures,
  presence,
  projects,
  revisions,
  sheets,
  trail,
} from './schema'
import type { Store } from './store'
import { thinned } from './thin'
import { TRAIL_KEPT_FOR } from './trail'

const HOUR = 3_600_000
const DAY = 24 * HOUR
/** For how long a removed project can be brought back. */
export const REMOVED_FOR = 30 * DAY
/** Files younger than this stay, whoever names them: whoever has just put one here is about to name it. */
const YOUNG = HOUR
/** A geometry map is put here before the revision that names it is saved. */
const YOUNG_MAP = DAY
/** How many files one write lets go of. */
const AT_ONCE = 8

/** Every hash that something names. What a picture was decoded to is named by the picture. */
const NAMED = sql`
  SELECT mesh_hash FROM projects WHERE mesh_hash IS NOT NULL
  UNION SELECT keys_hash FROM projects WHERE keys_hash IS NOT NULL
  UNION SELECT thumbnail_hash FROM projects WHERE thumbnail_hash IS NOT NULL
  UNION SELECT thumbnail_hash FROM looks WHERE thumbnail_hash IS NOT NULL
  UNION SELECT mesh_hash FROM revisions WHERE mesh_hash IS NOT NULL
  UNION SELECT keys_hash FROM revisions WHERE keys_hash IS NOT NULL
  UNION SELECT thumbnail_hash FROM revisions WHERE thumbnail_hash IS NOT NULL
  UNION SELECT hash FROM pictures
  UNION SELECT hash FROM lights
  UNION SELECT hash FROM dense_meshes
  UNION SELECT keys_hash FROM dense_meshes
  UNION SELECT picture.value ->> 'hash' FROM revisions, json_each(COALESCE(revisions.pictures, '[]')) AS picture
  UNION SELECT decoded FROM decodings
  UNION SELECT hash FROM geometry_maps`
const NAMED_PICTURES = sql`
  SELECT hash FROM pictures
  UNION SELECT picture.value ->> 'hash' FROM revisions, json_each(COALESCE(revisions.pictures, '[]')) AS picture`

/** Where deliveries lie, and the cache of baked pictures. */
export interface Folders {
  deliveries: string
  cache: string
}

export interface Freed {
  projects: number
  revisions: number
  maps: number
  files: number
  bytes: number
  deliveries: number
}

/**
 * Removes a project for good, with its revisions and deliveries. The files that only it named go with the next tidying.
 */
export async function forgetProject(store: Store, id: string, deliveryFolder: string): Promise<void> {
  const gone = await store.write(async rows => {
    const made = await rows.delete(deliveries).where(eq(deliveries.project, id)).returning({ id: deliveries.id })
    await rows.delete(revisions).where(eq(revisions.project, id))
    await rows.delete(pictures).where(eq(pictures.project, id))
    await rows.delete(lights).where(eq(lights.project, id))
    await rows.delete(denseMeshes).where(eq(denseMeshes.project, id))
    await rows.delete(presence).where(eq(presence.project, id))
    await rows.delete(looks).where(eq(looks.project, id))
    await rows.delete(sheets).where(eq(sheets.project, id))
    await rows.delete(grants).where(eq(grants.project, id))
    await rows.delete(projects).where(eq(projects.id, id))
    return made
  })
  for (const delivery of gone) await rm(join(deliveryFolder, delivery.id), { recursive: true, force: true })
}

/**
 * The revisions of each project that may go: each look's are thinned by themselves, and those of looks removed long ago
 * go with them.
 */
async function oldRevisions(store: Store, now: number, removedFor: number): Promise<Map<string, number[]>> {
  const all = await store.rows
    .select({
      project: revisions.project,
      look: revisions.lookId,
      number: revisions.number,
      saved: revisions.saved,
      name: revisions.name,
    })
    .from(revisions)
  const delivered = new Set(
    (await store.rows.select({ project: deliveries.project, revision: deliveries.revision }).from(deliveries)).map(
      d => `${d.project} ${d.revision}`,
    ),
  )
  const gone = new Set((await goneLooks(store, now, removedFor)).map(l => l.id))
  const go = new Map<string, number[]>()
  for (const [project, own] of group(all, r => r.project)) {
    const newest = Math.max(...own.map(r => r.number))
    const old = [...group(own, r => r.look)].flatMap(([look, list]) => {
      const saved = list.map(r => ({
        number: r.number,
        saved: r.saved,
        stays: r.name !== null || delivered.has(`${project} ${r.number}`),
      }))
      if (!gone.has(look)) return thinned(saved, now)
      return saved.filter(r => !r.stays).map(r => r.number)
    })
    // The project's newest has the mesh and how it is prepared, for all looks.
    go.set(
      project,
      old.filter(number => number !== newest),
    )
  }
  return go
}

/** Looks that were removed long ago. */
const goneLooks = (store: Store, now: number, removedFor: number) =>
  store.rows
    .select({ id: looks.id })
    .from(looks)
    .where(and(isNotNull(looks.removed), lte(looks.removed, now - removedFor)))

/** Ids of geometry maps that no revision asks for, and that are not young. */
async function idleMaps(store: Store, now: number): Promise<string[]> {
  const asked = new Set<string>()
  const kept = await store.rows
    .selectDistinct({ mesh: revisions.meshHash, preparation: revisions.preparation })
    .from(revisions)
  for (const { mesh, preparation } of kept) {
    if (!mesh || !preparation) continue
    const read = parsePreparation(JSON.parse(preparation))
    for (const settings of read.maps) asked.add(mapIdOf(mesh, read, settings))
  }
  const old = await store.rows
    .select({ id: geometryMaps.id })
    .from(geometryMaps)
    .where(lt(geometryMaps.made, now - YOUNG_MAP))
  return old.map(m => m.id).filter(id => !asked.has(id))
}

const idleFile = (now: number) => and(lt(blobs.used, now - YOUNG), sql`${blobs.hash} NOT IN (${NAMED})`)

/** Folders of deliveries that no delivery names. */
async function strayFolders(store: Store, folder: string, now: number): Promise<string[]> {
  const known = new Set((await store.rows.select({ id: deliveries.id }).from(deliveries)).map(d => d.id))
  const strays: string[] = []
  for (const name of await readdir(folder).catch(() => [])) {
    if (!/^[0-9a-f-]{36}$/.test(name) || known.has(name)) continue
    const path = join(folder, name)
    const age = await stat(path).then(
      s => now - s.mtimeMs,
      () => 0,
    )
    if (age > YOUNG) strays.push(path)
  }
  return strays
}

/**
 * Gives back the room of what nothing needs any more: projects removed 30 days ago, thinned revisions, and the meshes,
 * pictures, maps and deliveries that nothing names then. It may be stopped at any point, and goes on with the next
 * call.
 * @param removedFor how long removed projects stay, in milliseconds; 0 for not at all
 */
export async function tidy(
  store: Store,
  folders: Folders,
  { now = Date.now(), removedFor = REMOVED_FOR } = {},
): Promise<Freed> {
  const freed: Freed = { projects: 0, revisions: 0, maps: 0, files: 0, bytes: 0, deliveries: 0 }

  // (1) Projects and revisions.
  const removed = await store.rows
    .select({ id: projects.id })
    .from(projects)
    .where(sql`${projects.removed} IS NOT NULL AND ${projects.removed} <= ${now - removedFor}`)
  for (const { id } of removed) await forgetProject(store, id, folders.deliveries)
  freed.projects = removed.length
  for (const [project, numbers] of await oldRevisions(store, now, removedFor)) {
    if (!numbers.length) continue
    await store.write(rows =>
      rows.delete(revisions).where(and(eq(revisions.project, project), inArray(revisions.number, numbers))),
    )
    freed.revisions += numbers.length
  }
  const empty = (await goneLooks(store, now, removedFor)).map(l => l.id)
  const kept = store.rows.select({ id: revisions.lookId }).from(revisions)
  if (empty.length)
    await store.write(rows => rows.delete(looks).where(and(inArray(looks.id, empty), notInArray(looks.id, kept))))

  // (2) What they named.
  const maps = await idleMaps(store, now)
  if (maps.length) await store.write(rows => rows.delete(geometryMaps).where(inArray(geometryMaps.id, maps)))
  freed.maps = maps.length
  await store.write(rows => rows.run(sql`DELETE FROM decodings WHERE hash NOT IN (${NAMED_PICTURES})`))

  await store.write(rows => rows.delete(trail).where(lt(trail.at, now - TRAIL_KEPT_FOR)))

  // (3) Files, a few at a time: each is looked at again within the write that lets go of it.
  for (;;) {
    const idle = await store.rows.select({ hash: blobs.hash }).from(blobs).where(idleFile(now)).limit(AT_ONCE)
    if (!idle.length) break
    const gone = await store.write(async rows => {
      const rid = await rows
        .delete(blobs)
        .where(
          and(
            inArray(
              blobs.hash,
              idle.map(b => b.hash),
            ),
            idleFile(now),
          ),
        )
        .returning({ hash: blobs.hash, size: blobs.size })
      if (rid.length)
        await rows.delete(chunks).where(
          inArray(
            chunks.hash,
            rid.map(b => b.hash),
          ),
        )
      return rid
    })
    freed.files += gone.length
    freed.bytes += gone.reduce((sum, b) => sum + Math.max(0, b.size), 0)
  }

  // (4) Folders.
  const strays = await strayFolders(store, folders.deliveries, now)
  for (const path of strays) await rm(path, { recursive: true, force: true })
  freed.deliveries = strays.length
  return freed
}

export interface Holding {
  kind:
    | 'projects'
    | 'removed'
    | 'revisions'
    | 'meshes'
    | 'pictures'
    | 'maps'
    | 'idle'
    | 'deliveries'
    | 'strays'
    | 'cache'
    | 'empty'
  title: string
  count: number
  /** Bytes that it takes. */
  bytes: number
  /** Bytes that tidying would free now, apart from removed projects, which have 30 days. */
  frees: number
}

/** What the database and the folders hold, and what tidying would free. */
export async function holdings(store: Store, folders: Folders, now = Date.now()): Promise<Holding[]> {
  const sum = async (where: ReturnType<typeof sql>): Promise<{ count: number; bytes: number }> => {
    const [row] = await store.rows.all<{ count: number; bytes: number }>(
      sql`SELECT COUNT(*) AS count, COALESCE(SUM(MAX(size, 0)), 0) AS bytes FROM blobs WHERE ${where}`,
    )
    return { count: Number(row!.count), bytes: Number(row!.bytes) }
  }
  const one = async (query: ReturnType<typeof sql>): Promise<number> =>
    Number(Object.values((await store.rows.all<Record<string, number>>(query))[0]!)[0])
  const removedMeshes = sql`hash IN (SELECT mesh_hash FROM revisions WHERE project IN (SELECT id FROM projects WHERE removed IS NOT NULL))
    AND hash NOT IN (SELECT mesh_hash FROM revisions WHERE mesh_hash IS NOT NULL AND project IN (SELECT id FROM projects WHERE removed IS NULL))`
  const meshes = await sum(sql`hash IN (SELECT mesh_hash FROM projects UNION SELECT mesh_hash FROM revisions)`)
  const shown = await sum(
    sql`hash IN (${NAMED_PICTURES} UNION SELECT decoded FROM decodings UNION SELECT thumbnail_hash FROM projects UNION SELECT thumbnail_hash FROM revisions)`,
  )
  const maps = await sum(sql`hash IN (SELECT hash FROM geometry_maps)`)
  const idle = await sum(sql`used < ${now - YOUNG} AND hash NOT IN (${NAMED})`)
  const removed = await sum(removedMeshes)
  const looks = await one(sql`SELECT COALESCE(SUM(LENGTH(look) + LENGTH(COALESCE(preparation, ''))), 0) FROM revisions`)
  const old = [...(await oldRevisions(store, now, REMOVED_FOR)).values()].reduce((n, list) => n + list.length, 0)
  const revisionCount = await one(sql`SELECT COUNT(*) FROM revisions`)
  const page = store.file ? await one(sql`PRAGMA page_size`) : 0
  const empty = store.file ? (await one(sql`PRAGMA freelist_count`)) * page : 0
  const delivered = await folderSize(folders.deliveries)
  const cached = await folderSize(folders.cache)
  const strays = await strayFolders(store, folders.deliveries, now)
  const strayBytes = (await Promise.all(strays.map(folderSize))).reduce((n, s) => n + s.bytes, 0)
  return [
    {
      kind: 'projects',
      title: 'Projects',
      count: await one(sql`SELECT COUNT(*) FROM projects WHERE removed IS NULL`),
      bytes: 0,
      frees: 0,
    },
    {
      kind: 'removed',
      title: 'Removed projects, kept for 30 days',
      count: await one(sql`SELECT COUNT(*) FROM projects WHERE removed IS NOT NULL`),
      bytes: removed.bytes,
      frees: 0,
    },
    {
      kind: 'revisions',
      title: 'Revisions of looks',
      count: revisionCount,
      bytes: looks,
      frees: revisionCount ? Math.round((looks * old) / revisionCount) : 0,
    },
    { kind: 'meshes', title: 'Meshes', ...meshes, frees: 0 },
    { kind: 'pictures', title: 'Pictures', ...shown, frees: 0 },
    { kind: 'maps', title: 'Geometry maps', ...maps, frees: 0 },
    { kind: 'idle', title: 'Files that nothing names any more', ...idle, frees: idle.bytes },
    {
      kind: 'deliveries',
      title: 'Deliveries',
      count: await one(sql`SELECT COUNT(*) FROM deliveries WHERE state = 'done'`),
      bytes: delivered.bytes - cached.bytes - strayBytes,
      frees: 0,
    },
    {
      kind: 'strays',
      title: 'Folders of forgotten deliveries',
      count: strays.length,
      bytes: strayBytes,
      frees: strayBytes,
    },
    { kind: 'cache', title: 'Baked pictures kept to bake less next time', ...cached, frees: 0 },
    { kind: 'empty', title: 'Empty room inside the database file', count: 0, bytes: empty, frees: empty },
  ]
}
