import { desc, eq } from 'drizzle-orm'
import { randomUUID } from 'node:crypto'
import { emptyLook, type Look } from '#core/graph/look'
import { emptyPreparation, parsePreparation, type Preparation } from '#core/mesh/preparation'
import { keyTableSchema, type KeyTable } from '#core/mesh/keys'
import { useDatabase } from '../database/client'
import { projects, revisions } from '../database/schema'
import { getBlob } from './blobs'

type Project = typeof projects.$inferSelect

/** A project as the interface sees it. */
export const summary = (p: Project) => ({
  id: p.id, name: p.name, created: p.created, changed: p.changed, removed: p.removed, triangles: p.triangles, parts: p.parts,
  mesh: p.meshHash && { hash: p.meshHash, name: p.meshName ?? 'mesh.glb' }, thumbnail: p.thumbnailHash,
})
export type ProjectSummary = ReturnType<typeof summary>

export async function createProject(name: string, look: Look = emptyLook(), preparation: Preparation = emptyPreparation(), rest: Partial<Project> = {}): Promise<ProjectSummary> {
  const db = await useDatabase(), now = Date.now(), id = randomUUID()
  return db.transaction(async (tx) => {
    const [row] = await tx.insert(projects).values({ ...rest, id, name, created: now, changed: now, removed: null }).returning()
    await tx.insert(revisions).values({ project: id, number: 1, saved: now, look: JSON.stringify(look), preparation: JSON.stringify(preparation) })
    return summary(row!)
  })
}

export async function latestRevision(project: string) {
  const db = await useDatabase()
  const [row] = await db.select().from(revisions).where(eq(revisions.project, project)).orderBy(desc(revisions.number)).limit(1)
  return row
}

type Revision = typeof revisions.$inferSelect
/** How the mesh is prepared in a revision. */
export const preparationOf = (revision: Revision | undefined): Preparation =>
  revision?.preparation ? parsePreparation(JSON.parse(revision.preparation)) : emptyPreparation()

/** The key table of a project's mesh. */
export async function keysOf(project: Project): Promise<KeyTable | undefined> {
  const blob = project.keysHash && await getBlob(project.keysHash)
  return blob ? keyTableSchema.parse(JSON.parse(blob.bytes.toString('utf8'))) : undefined
}
