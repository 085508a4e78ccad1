import { eq, inArray } from 'drizzle-orm'
import { createHash, randomUUID } from 'node:crypto'
import { unzipSync, Zip, ZipPassThrough } from 'fflate'
import * as z from 'zod'
import { denseSetupSchema } from '../../core/dense/setup'
import { parseLook } from '../../core/graph/look'
import { keyTableSchema } from '../../core/mesh/keys'
import { mapIdOf, parsePreparation } from '../../core/mesh/preparation'
import { DEEPEST, nestsDeeper } from '../nesting'
import { blobInfo, blobPieces, putBlob, type BlobInfo } from './blobs'
import { decodings, denseMeshes, geometryMaps, lights, looks, pictures, projects, revisions, sheets } from './schema'
import { PICTURE_TYPES } from './pictureTypes'
import type { Store } from './store'

/** A project file that cannot be read; the message is one sentence. */
export class ProjectFileError extends Error {}

/** Types of the files that a project may hold: meshes, maps and lights; tables of keys; pictures. */
const FILE_TYPES = new Set(['application/octet-stream', 'application/json', ...PICTURE_TYPES])

/** 1 had one look to a project. */
const VERSION = 2
/** The id of the one look of a file from before there were several. */
const ONLY = 'only'
const hash = z.string().regex(/^[0-9a-f]{64}$/)
const pictureSchema = z.object({ name: z.string().max(200), hash })
const lookId = z.string().min(1).max(64)
const lookSchema = z.object({
  id: lookId,
  name: z.string().min(1).max(120),
  position: z.number().int(),
  made: z.number().int(),
  removed: z.number().int().nullable(),
  thumbnailHash: hash.nullable(),
})
const revisionSchema = z.object({
  number: z.number().int().min(1),
  lookId: lookId.default(ONLY),
  saved: z.number().int(),
  look: z.unknown(),
  preparation: z.unknown().nullable(),
  name: z.string().max(120).nullable(),
  author: z.string().max(100).nullable(),
  meshHash: hash.nullable(),
  meshName: z.string().max(200).nullable(),
  keysHash: hash.nullable(),
  triangles: z.number().int().nullable(),
  parts: z.number().int().nullable(),
  pictures: z.array(pictureSchema).nullable(),
  thumbnailHash: hash.nullable(),
})
/**
 * What stands in `project.json` of a project file. The files that it names lie beside it, under `files/`, by their
 * SHA-256.
 */
const documentSchema = z.object({
  format: z.literal('ubblet project'),
  version: z.number().int(),
  project: z.object({
    name: z.string().min(1).max(120),
    created: z.number().int(),
    changed: z.number().int(),
    meshHash: hash.nullable(),
    meshName: z.string().max(200).nullable(),
    triangles: z.number().int().nullable(),
    parts: z.number().int().nullable(),
    thumbnailHash: hash.nullable(),
    keysHash: hash.nullable(),
  }),
  pictures: z.array(pictureSchema.extend({ added: z.number().int() })),
  /** None in files from before there were any. */
  lights: z.array(pictureSchema.extend({ added: z.number().int() })).default([]),
  /** None in files from before there were any. */
  dense: z
    .object({
      name: z.string().max(200),
      hash,
      keysHash: hash,
      triangles: z.number().int(),
      parts: z.number().int(),
      setup: denseSetupSchema.nullable(),
      added: z.number().int(),
    })
    .nullable()
    .default(null),
  /** None in files from before there were several. */
  looks: z.array(lookSchema).default([]),
  sheets: z
    .array(z.object({ name: z.string().min(1).max(120), saved: z.number().int(), sheet: z.unknown() }))
    .default([]),
  decodings: z.array(z.object({ hash, decoded: hash })),
  maps: z.array(z.object({ id: hash, hash, made: z.number().int() })),
  revisions: z.array(revisionSchema).min(1),
  files: z.array(z.object({ hash, type: z.string().max(100), size: z.number().int().min(0) })),
})
type ProjectDocument = z.infer<typeof documentSchema>

/** Geometry maps that revisions ask for. */
function mapIds(list: readonly { meshHash: string | null; preparation: unknown }[]): string[] {
  const ids = new Set<string>()
  for (const { meshHash, preparation } of list) {
    if (!meshHash || !preparation) continue
    const read = parsePreparation(preparation)
    for (const settings of read.maps) ids.add(mapIdOf(meshHash, read, settings))
  }
  return [...ids]
}

/** A row of the table of dense meshes, as a project file has it. */
function denseIn({ project: _, setup, ...row }: typeof denseMeshes.$inferSelect): ProjectDocument['dense'] {
  return { ...row, setup: setup === null ? null : denseSetupSchema.parse(JSON.parse(setup)) }
}

/** Everything that a project is, in words. @throws ProjectFileError where there is no such project */
async function documentOf(store: Store, id: string): Promise<ProjectDocument> {
  const [project] = await store.rows.select().from(projects).where(eq(projects.id, id))
  if (!project) throw new ProjectFileError('There is no such project.')
  const saved = (
    await store.rows.select().from(revisions).where(eq(revisions.project, id)).orderBy(revisions.number)
  ).map(({ project: _, ...r }) => ({
    ...r,
    look: JSON.parse(r.look) as unknown,
    preparation: r.preparation ? (JSON.parse(r.preparation) as unknown) : null,
    pictures: r.pictures ? z.array(pictureSchema).parse(JSON.parse(r.pictures)) : null,
  }))
  const own = (await store.rows.select().from(pictures).where(eq(pictures.project, id)).orderBy(pictures.added)).map(
    p => ({ name: p.name, hash: p.hash, added: p.added }),
  )
  const lit = await store.rows
    .select({ name: lights.name, hash: lights.hash, added: lights.added })
    .from(lights)
    .where(eq(lights.project, id))
    .orderBy(lights.added)
  const [fine] = await store.rows.select().from(denseMeshes).where(eq(denseMeshes.project, id))
  const all = await store.rows.select().from(looks).where(eq(looks.project, id)).orderBy(looks.position)
  const compared = await store.rows.select().from(sheets).where(eq(sheets.project, id)).orderBy(sheets.saved)
  const shown = [...new Set([...own, ...saved.flatMap(r => r.pictures ?? [])].map(p => p.hash))]
  const decoded = shown.length ? await store.rows.select().from(decodings).where(inArray(decodings.hash, shown)) : []
  const ids = mapIds(saved)
  const maps = ids.length ? await store.rows.select().from(geometryMaps).where(inArray(geometryMaps.id, ids)) : []
  const named = new Set(
    [
      project.meshHash,
      project.keysHash,
      project.thumbnailHash,
      ...shown,
      ...lit.map(l => l.hash),
      ...(fine ? [fine.hash, fine.keysHash] : []),
      ...all.map(l => l.thumbnailHash),
      ...decoded.map(d => d.decoded),
      ...maps.map(m => m.hash),
      ...saved.flatMap(r => [r.meshHash, r.keysHash, r.thumbnailHash]),
    ].filter(h => h !== null),
  )
  const files: BlobInfo[] = []
  for (const name of named) {
    const info = await blobInfo(store, name)
    if (!info) throw new ProjectFileError(`File ${name.slice(0, 12)} of the project is missing from the database.`)
    files.push(info)
  }
  const { name, created, changed, meshHash, meshName, triangles, parts, thumbnailHash, keysHash } = project
  return {
    format: 'ubblet project',
    version: VERSION,
    project: { name, created, changed, meshHash, meshName, triangles, parts, thumbnailHash, keysHash },
    pictures: own,
    lights: lit,
    dense: fine ? denseIn(fine) : null,
    looks: all.map(({ project: _, ...look }) => look),
    sheets: compared.map(({ name, saved, sheet }) => ({ name, saved, sheet: JSON.parse(sheet) as unknown })),
    decodings: decoded,
    maps,
    revisions: saved,
    files,
  }
}

/** A project as one zip, written while it is read: mesh, looks, pictures, maps and history. */
export async function* exportProject(store: Store, id: string): AsyncGenerator<Uint8Array> {
  const document = await documentOf(store, id)
  const ready: Uint8Array[] = []
  const zip = new Zip((error, data) => {
    if (error) throw error
    ready.push(data)
  })
  // Stored: what is large in it is compressed already, or floats that hardly get smaller.
  const add = (path: string): ZipPassThrough => {
    const entry = new ZipPassThrough(path)
    zip.add(entry)
    return entry
  }
  add('project.json').push(new TextEncoder().encode(JSON.stringify(document)), true)
  yield* ready.splice(0)
  for (const file of document.files) {
    const entry = add(`files/${file.hash}`)
    for await (const piece of blobPieces(store, file)) {
      entry.push(new Uint8Array(piece))
      yield* ready.splice(0)
    }
    entry.push(new Uint8Array(0), true)
  }
  zip.end()
  yield* ready.splice(0)
}

/** The files of a zip, unpacked. @throws ProjectFileError where it is none, or holds more than `limit` bytes */
function unpacked(bytes: Uint8Array, limit: number): Record<string, Uint8Array> {
  let sum = 0
  try {
    return unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (name !== 'project.json' && !/^files\/[0-9a-f]{64}$/.test(name)) return false
        sum += originalSize
        if (sum > limit)
          throw new ProjectFileError(
            `The project file holds more than ${Math.round(limit / 2 ** 20)} MB, which is the limit.`,
          )
        return true
      },
    })
  } catch (error) {
    throw error instanceof ProjectFileError
      ? error
      : new ProjectFileError('This is not a project file: it is no zip, or it is cut off.')
  }
}

function documentIn(bytes: Uint8Array | undefined): ProjectDocument {
  if (!bytes) throw new ProjectFileError('This is not a project file: it has no project.json.')
  if (nestsDeeper(bytes, DEEPEST))
    throw new ProjectFileError(`The project file is broken: its project.json nests deeper than ${DEEPEST} levels.`)
  let data: unknown
  try {
    data = JSON.parse(new TextDecoder().decode(bytes))
  } catch {
    throw new ProjectFileError('The project file is broken: its project.json is not JSON.')
  }
  const version = z.object({ version: z.number() }).safeParse(data)
  if (version.success && version.data.version > VERSION)
    throw new ProjectFileError('The project file was written by a newer version of Ubblet.')
  const read = documentSchema.safeParse(data)
  if (!read.success) {
    const issue = read.error.issues[0]!
    throw new ProjectFileError(
      `The project file is broken: ${issue.path.join('.') || 'project.json'}: ${issue.message}.`,
    )
  }
  return read.data
}

/** Whether a file is a table of keys. */
function isKeyTable(bytes: Uint8Array): boolean {
  if (nestsDeeper(bytes, DEEPEST)) return false
  try {
    return keyTableSchema.safeParse(JSON.parse(new TextDecoder().decode(bytes))).success
  } catch {
    return false
  }
}

/** The name that stands twice in a list, where one does. */
function doubled(names: readonly (string | number)[]): string | number | undefined {
  const seen = new Set<string | number>()
  for (const name of names) {
    if (seen.has(name)) return name
    seen.add(name)
  }
  return undefined
}

/** Refuses lists in which something stands twice that a project has once. */
function refuseDoubles({
  pictures: shown,
  lights: lit,
  sheets: compared,
  looks: own,
  revisions: saved,
}: ProjectDocument) {
  const lists: [string, (string | number)[]][] = [
    ['picture', shown.map(p => p.name)],
    ['picture of light', lit.map(l => l.name)],
    ['sheet', compared.map(s => s.name)],
    ['look', own.map(l => l.id)],
    ['revision', saved.map(r => r.number)],
  ]
  for (const [what, names] of lists) {
    const twice = doubled(names)
    if (twice !== undefined)
      throw new ProjectFileError(`The project file is broken: the ${what} ${twice} stands in it twice.`)
  }
}

/** The looks of a project file, each with the id that it gets here. A file from before there were several has one. */
function looksIn({ looks: listed, revisions: saved, project }: ProjectDocument) {
  const newest = saved.reduce((a, b) => (b.number > a.number ? b : a))
  const { data } = z.object({ name: z.string().trim().min(1).max(120) }).safeParse(newest.look)
  const only = {
    id: ONLY,
    name: data?.name ?? 'Look',
    position: 0,
    made: project.created,
    removed: null,
    thumbnailHash: project.thumbnailHash,
  }
  const own = listed.length ? listed : [only]
  const empty = own.find(l => !saved.some(r => r.lookId === l.id))
  if (empty) throw new ProjectFileError(`The project file is broken: the look "${empty.name}" has no revision in it.`)
  if (own.every(l => l.removed !== null))
    throw new ProjectFileError('The project file is broken: all of its looks are removed.')
  return own.map(l => ({ ...l, newId: randomUUID() }))
}

/**
 * Brings a project in from a project file, as a new project with its history.
 * @param limit bytes that it may hold
 * @param owner who brings it in
 * @throws ProjectFileError, or what the readers of looks and preparations throw; nothing is there then that was not
 * before
 */
export async function importProject(
  store: Store,
  bytes: Uint8Array,
  limit: number,
  owner: string | null = null,
): Promise<string> {
  // (1) All of it is checked before anything is written.
  const entries = unpacked(bytes, limit)
  const document = documentIn(entries['project.json'])
  refuseDoubles(document)
  const listed = new Set(document.files.map(f => f.hash))
  for (const file of document.files) {
    const own = entries[`files/${file.hash}`]
    if (!own) throw new ProjectFileError(`The project file is broken: file ${file.hash.slice(0, 12)} is missing.`)
    if (createHash('sha256').update(own).digest('hex') !== file.hash)
      throw new ProjectFileError(`The project file is broken: file ${file.hash.slice(0, 12)} is not what it was.`)
    if (!FILE_TYPES.has(file.type))
      throw new ProjectFileError(`The project file is broken: "${file.type}" is no type of its files.`)
  }
  const known = (...hashes: (string | null)[]): void => {
    const missing = hashes.find(h => h !== null && !listed.has(h))
    if (missing)
      throw new ProjectFileError(
        `The project file is broken: it names file ${missing.slice(0, 12)}, which is not in it.`,
      )
  }
  const { project } = document
  known(
    project.meshHash,
    project.keysHash,
    project.thumbnailHash,
    ...document.pictures.map(p => p.hash),
    ...document.lights.map(l => l.hash),
    ...(document.dense ? [document.dense.hash, document.dense.keysHash] : []),
    ...document.looks.map(l => l.thumbnailHash),
    ...document.decodings.map(d => d.decoded),
    ...document.maps.map(m => m.hash),
  )
  const own = looksIn(document)
  const { dense } = document
  const keyTables = new Set([project.keysHash, dense?.keysHash].filter(h => typeof h === 'string'))
  const saved = document.revisions.map(r => {
    known(r.meshHash, r.keysHash, r.thumbnailHash, ...(r.pictures ?? []).map(p => p.hash))
    if (r.keysHash) keyTables.add(r.keysHash)
    const look = own.find(l => l.id === r.lookId)
    if (!look)
      throw new ProjectFileError(`The project file is broken: revision ${r.number} is of a look that is not in it.`)
    return {
      ...r,
      lookId: look.newId,
      look: JSON.stringify(parseLook(r.look)),
      preparation: r.preparation === null ? null : JSON.stringify(parsePreparation(r.preparation)),
      pictures: r.pictures && JSON.stringify(r.pictures),
    }
  })
  for (const table of keyTables) {
    if (!isKeyTable(entries[`files/${table}`]!))
      throw new ProjectFileError('The project file is broken: its key table is none.')
  }

  // (2) Files first, then everything that names them, at once.
  for (const file of document.files) await putBlob(store, entries[`files/${file.hash}`]!, file.type)
  const id = randomUUID()
  await store.write(async rows => {
    await rows.insert(projects).values({ ...project, id, owner, changed: Date.now() })
    for (const { newId, ...look } of own) await rows.insert(looks).values({ ...look, id: newId, project: id })
    for (const { sheet, ...kept } of document.sheets)
      await rows.insert(sheets).values({ ...kept, sheet: JSON.stringify(sheet), project: id })
    for (const r of saved) await rows.insert(revisions).values({ ...r, project: id })
    for (const p of document.pictures) await rows.insert(pictures).values({ ...p, project: id })
    for (const l of document.lights) await rows.insert(lights).values({ ...l, project: id })
    if (dense)
      await rows
        .insert(denseMeshes)
        .values({ ...dense, setup: dense.setup && JSON.stringify(dense.setup), project: id })
    for (const d of document.decodings) await rows.insert(decodings).values(d).onConflictDoNothing()
    for (const m of document.maps) await rows.insert(geometryMaps).values(m).onConflictDoNothing()
  })
  return id
}
