import { and, asc, desc, eq } from 'drizzle-orm'
import { randomUUID } from 'node:crypto'
import { z } from 'zod'
import { emptyLook, type Look } from '#core/graph/look'
import { emptyPreparation, parsePreparation, type Preparation } from '#core/mesh/preparation'
import { keyTableSchema, type KeyTable } from '#core/mesh/keys'
import { getBlob } from '../../node/store/blobs'
import { lights, pictures, projects, revisions } from '../../node/store/schema'
import type { Rows } from '../../node/store/store'
import { refuse } from './requests'
import { useRows, useStore, write } from './store'

export type Project = typeof projects.$inferSelect
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
})
export type ProjectSummary = ReturnType<typeof summary>

const pictureListSchema = z.array(z.object({ name: z.string(), hash: z.string() }))
export type PictureRef = z.infer<typeof pictureListSchema>[number]

/** What a new project may begin with. */
export interface Beginning {
  look?: Look
  preparation?: Preparation
  mesh?: Pick<Project, 'meshHash' | 'meshName' | 'keysHash' | 'triangles' | 'parts'>
  thumbnailHash?: string | null
  pictures?: readonly PictureRef[]
  lights?: readonly PictureRef[]
  author?: string | undefined
}

export async function createProject(name: string, beginning: Beginning = {}): Promise<ProjectSummary> {
  const { look, preparation, thumbnailHash = null, pictures: own = [], lights: lit = [], author } = beginning
  const now = Date.now()
  const id = randomUUID()
  const { meshHash = null, meshName = null, keysHash = null, triangles = null, parts = null } = beginning.mesh ?? {}
  const mesh = { meshHash, meshName, keysHash, triangles, parts }
  return write(async rows => {
    const [row] = await rows
      .insert(projects)
      .values({ ...mesh, id, name, created: now, changed: now, thumbnailHash })
      .returning()
    await rows.insert(revisions).values({
      ...mesh,
      project: id,
      number: 1,
      saved: now,
      author: author ?? null,
      thumbnailHash,
      pictures: JSON.stringify(own),
      look: JSON.stringify(look ?? emptyLook()),
      preparation: JSON.stringify(preparation ?? emptyPreparation()),
    })
    // One after the other, so that they stay in their order.
    if (own.length) await rows.insert(pictures).values(own.map((p, i) => ({ ...p, added: now + i, project: id })))
    if (lit.length) await rows.insert(lights).values(lit.map((l, i) => ({ ...l, added: now + i, project: id })))
    return summary(row!)
  })
}

/** The pictures of light that a project keeps, as they were added. */
export async function lightsOf(project: string): Promise<PictureRef[]> {
  const rows = await useRows()
  const { name, hash } = lights
  return rows.select({ name, hash }).from(lights).where(eq(lights.project, project)).orderBy(asc(lights.added))
}

/** The newest revision, as `rows` has it: within a write, nobody can add another before the write is done. */
export async function newestRevision(rows: Rows, project: string): Promise<Revision> {
  const [row] = await rows
    .select()
    .from(revisions)
    .where(eq(revisions.project, project))
    .orderBy(desc(revisions.number))
    .limit(1)
  if (!row) throw refuse(404, 'There is no such project.')
  return row
}

/** The revision with a number, or the newest. */
export async function findRevision(project: string, number?: number): Promise<Revision> {
  const rows = await useRows()
  if (number === undefined) return newestRevision(rows, project)
  const [row] = await rows
    .select()
    .from(revisions)
    .where(and(eq(revisions.project, project), eq(revisions.number, number)))
  if (!row) throw refuse(404, `The project has no revision ${number} any more.`)
  return row
}

/** Refuses what was made from an older revision than the newest. */
export function fresh(newest: Revision, base: number | undefined): void {
  if (base !== undefined && newest.number !== base) {
    throw refuse(409, 'The project was saved somewhere else in the meantime.', { revision: newest.number })
  }
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
