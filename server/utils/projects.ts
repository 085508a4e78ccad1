import { and, asc, desc, eq, gt, isNull } from 'drizzle-orm'
import { randomUUID } from 'node:crypto'
import * as z from 'zod'
import { emptyLook, type Look } from '#core/graph/look'
import { emptyPreparation, parsePreparation, type Preparation } from '#core/mesh/preparation'
import { keyTableSchema, type KeyTable } from '#core/mesh/keys'
import { getBlob } from '../../node/store/blobs'
import type { Access, Grant } from '../../node/store/access'
import { denseMeshes, grants, lights, looks, pictures, projects, revisions } from '../../node/store/schema'
import type { Rows } from '../../node/store/store'
import { refuse } from './requests'
import { useRows, useStore, write } from './store'

export type Project = typeof projects.$inferSelect
export type DenseMesh = typeof denseMeshes.$inferSelect
export type Revision = typeof revisions.$inferSelect

/** A project as the interface sees it. */
export const summary = (p: Project) => ({
  id: p.id,
  name: p.name,
  created: p.created,
  changed: p.changed,
  removed: p.removed,
  triangles: p.triangles,
  parts: p.parts,
  mesh: p.meshHash && { hash: p.meshHash, name: p.meshName ?? 'mesh.glb' },
  thumbnail: p.thumbnailHash,
  locked: p.locked,
  lockedBy: p.lockedBy,
  access: p.access,
  owner: p.owner,
})
export type ProjectSummary = ReturnType<typeof summary>

const pictureListSchema = z.array(z.object({ name: z.string(), hash: z.string() }))
export type PictureRef = z.infer<typeof pictureListSchema>[number]

/** A look that a project may begin with. */
export interface FirstLook {
  look: Look
  thumbnailHash?: string | null
}

/** What a new project may begin with. */
export interface Beginning {
  /** At least one where there are any, in their order; the first is the one that is opened. */
  looks?: readonly FirstLook[]
  preparation?: Preparation
  mesh?: Pick<Project, 'meshHash' | 'meshName' | 'keysHash' | 'triangles' | 'parts'>
  pictures?: readonly PictureRef[]
  lights?: readonly PictureRef[]
  dense?: Omit<DenseMesh, 'project'> | undefined
  author?: string | undefined
  /** Whom it is open to; everybody where nothing is said. */
  access?: { access: Access; grants: readonly Grant[] }
}

export async function createProject(name: string, beginning: Beginning = {}): Promise<ProjectSummary> {
  const {
    looks: first = [{ look: emptyLook() }],
    preparation,
    pictures: own = [],
    lights: lit = [],
    dense,
    author,
    access: open = { access: 'all', grants: [] },
  } = beginning
  const now = Date.now()
  const id = randomUUID()
  const { meshHash = null, meshName = null, keysHash = null, triangles = null, parts = null } = beginning.mesh ?? {}
  const mesh = { meshHash, meshName, keysHash, triangles, parts }
  const thumbnailHash = first[0]?.thumbnailHash ?? null
  return write(async rows => {
    const [row] = await rows
      .insert(projects)
      .values({
        ...mesh,
        id,
        name,
        created: now,
        changed: now,
        thumbnailHash,
        owner: author ?? null,
        access: open.access,
      })
      .returning()
    if (open.grants.length) await rows.insert(grants).values(open.grants.map(g => ({ ...g, project: id })))
    for (const [position, { look, thumbnailHash = null }] of first.entries()) {
      const lookId = await insertLook(rows, { project: id, look, position, thumbnailHash })
      await rows.insert(revisions).values({
        ...mesh,
        project: id,
        lookId,
        // The first look is the newest, and so the one that is opened.
        number: first.length - position,
        saved: now,
        author: author ?? null,
        thumbnailHash,
        pictures: JSON.stringify(own),
        look: JSON.stringify(look),
        preparation: JSON.stringify(preparation ?? emptyPreparation()),
      })
    }
    // One after the other, so that they stay in their order.
    if (own.length) await rows.insert(pictures).values(own.map((p, i) => ({ ...p, added: now + i, project: id })))
    if (lit.length) await rows.insert(lights).values(lit.map((l, i) => ({ ...l, added: now + i, project: id })))
    if (dense) await rows.insert(denseMeshes).values({ ...dense, project: id })
    return summary(row!)
  })
}

/** Adds a row for a look. @returns its id */
export async function insertLook(
  rows: Rows,
  { look, ...at }: { project: string; look: Look; position: number; thumbnailHash: string | null },
): Promise<string> {
  const id = randomUUID()
  await rows.insert(looks).values({ ...at, id, name: lookName(look), made: Date.now() })
  return id
}

/** What a look is called where it is listed. */
export const lookName = (look: Look): string => look.name.trim() || 'Look'

/** The pictures of light that a project keeps, as they were added. */
export async function lightsOf(project: string): Promise<PictureRef[]> {
  const rows = await useRows()
  const { name, hash } = lights
  return rows.select({ name, hash }).from(lights).where(eq(lights.project, project)).orderBy(asc(lights.added))
}

/** The dense mesh of a project, where it has one. */
export async function denseOf(project: string): Promise<DenseMesh | undefined> {
  const rows = await useRows()
  const [row] = await rows.select().from(denseMeshes).where(eq(denseMeshes.project, project))
  return row
}

/** The look of a project that was saved last, of those that are not removed. */
async function lastLook(rows: Rows, project: string): Promise<string> {
  const [row] = await rows
    .select({ id: looks.id })
    .from(revisions)
    .innerJoin(looks, eq(looks.id, revisions.lookId))
    .where(and(eq(revisions.project, project), isNull(looks.removed)))
    .orderBy(desc(revisions.number))
    .limit(1)
  if (!row) throw refuse(404, 'There is no such project.')
  return row.id
}

/**
 * What a look of a project is now, as `rows` has it: the look as it was saved last, with the mesh, the preparation and
 * the pictures of the project's newest revision, whose number it has. Within a write, nobody can add another before the
 * write is done.
 * @param look the one that was saved last, where none is named
 */
export async function newestRevision(rows: Rows, project: string, look?: string): Promise<Revision> {
  const ofProject = eq(revisions.project, project)
  const [newest] = await rows.select().from(revisions).where(ofProject).orderBy(desc(revisions.number)).limit(1)
  if (!newest) throw refuse(404, 'There is no such project.')
  const lookId = look ?? (await lastLook(rows, project))
  if (newest.lookId === lookId) return newest
  const own = await ownRevision(rows, project, lookId)
  return { ...newest, lookId, look: own.look, thumbnailHash: own.thumbnailHash, name: null, author: null }
}

/** The last save of a look, with what the project had then. */
async function ownRevision(rows: Rows, project: string, look: string): Promise<Revision> {
  const [own] = await rows
    .select()
    .from(revisions)
    .where(and(eq(revisions.project, project), eq(revisions.lookId, look)))
    .orderBy(desc(revisions.number))
    .limit(1)
  if (!own) throw refuse(404, 'The project has no such look.')
  return own
}

/** The revision with a number, or what a look is now. */
export async function findRevision(project: string, number?: number, look?: string): Promise<Revision> {
  const rows = await useRows()
  if (number === undefined) return newestRevision(rows, project, look)
  const [row] = await rows
    .select()
    .from(revisions)
    .where(and(eq(revisions.project, project), eq(revisions.number, number)))
  if (!row) throw refuse(404, `The project has no revision ${number} any more.`)
  return row
}

/**
 * Whether what was made from revision `base` still goes with what a look is now: neither it nor the mesh was saved
 * since.
 */
export async function isFresh(rows: Rows, now: Revision, base: number): Promise<boolean> {
  if (now.number === base) return true
  const ofProject = eq(revisions.project, now.project)
  const since = await rows
    .select({ number: revisions.number })
    .from(revisions)
    .where(and(ofProject, eq(revisions.lookId, now.lookId), gt(revisions.number, base)))
    .limit(1)
  const [then] = await rows
    .select()
    .from(revisions)
    .where(and(ofProject, eq(revisions.number, base)))
  return !since.length && then?.meshHash === now.meshHash && then.preparation === now.preparation
}

/** Refuses what was made from an older state of a look, or of the mesh, than the one that is there. */
export async function fresh(rows: Rows, now: Revision, base: number | undefined): Promise<void> {
  if (base === undefined || (await isFresh(rows, now, base))) return
  throw refuse(409, 'The project was saved somewhere else in the meantime.', { revision: now.number })
}

interface LastSave {
  now: Revision
  own: Revision
  whole: boolean
}

/**
 * What a look is now, its last save, and whether that is all that the look is now: mesh and pictures are those of then.
 */
export async function lastSave(rows: Rows, project: string, look: string): Promise<LastSave> {
  const now = await newestRevision(rows, project, look)
  const own = await ownRevision(rows, project, look)
  const whole = own.meshHash === now.meshHash && own.preparation === now.preparation && own.pictures === now.pictures
  return { now, own, whole }
}

/**
 * The number of a revision that is all that a look is now: a new one where its last save is from before the mesh or the
 * pictures.
 */
export async function revisionNow(rows: Rows, project: string, look: string): Promise<number> {
  const { now, own, whole } = await lastSave(rows, project, look)
  return whole ? own.number : addRevision(rows, now, { thumbnailHash: own.thumbnailHash })
}

/**
 * Adds a revision after the newest, which it is like except for `change`.
 * @param rows of a write
 * @returns its number
 */
export async function addRevision(
  rows: Rows,
  newest: Revision,
  change: Partial<Omit<Revision, 'project' | 'number' | 'saved'>>,
): Promise<number> {
  const number = newest.number + 1
  const saved = Date.now()
  await rows
    .insert(revisions)
    .values({ ...newest, name: null, thumbnailHash: null, author: null, ...change, number, saved })
  await rows.update(projects).set({ changed: saved }).where(eq(projects.id, newest.project))
  return number
}

/** How the mesh is prepared in a revision. */
export const preparationOf = (revision: Pick<Revision, 'preparation'> | undefined): Preparation =>
  revision?.preparation ? parsePreparation(JSON.parse(revision.preparation)) : emptyPreparation()

/** The pictures that a revision was made with; nothing where that is not known. */
export const picturesOf = (revision: Pick<Revision, 'pictures'>): PictureRef[] | undefined =>
  revision.pictures === null ? undefined : pictureListSchema.parse(JSON.parse(revision.pictures))

/** The key table of a mesh. */
export async function keysOf({ keysHash }: Pick<Project, 'keysHash'>): Promise<KeyTable | undefined> {
  const blob = keysHash ? await getBlob(await useStore(), keysHash) : undefined
  return blob ? keyTableSchema.parse(JSON.parse(blob.bytes.toString('utf8'))) : undefined
}
