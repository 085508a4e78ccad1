import { and, eq } from 'drizzle-orm'
import * as z from 'zod'
import { projectNamed } from '#core/exchange/names'
import { putBlob } from '../../../../node/store/blobs'
import { projects, revisions } from '../../../../node/store/schema'
import { limits } from '../../../utils/limits'
import { authorOf } from '../../../utils/people'
import {
  addRevision,
  findRevision,
  fresh,
  keysOf,
  newestRevision,
  preparationOf,
  summary,
} from '../../../utils/projects'
import { readMesh } from '../../../utils/readMesh'
import { bytesOf, lookAsked, refuse } from '../../../utils/requests'
import { useStore, write } from '../../../utils/store'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'

/** The file's own name: its ending helps to tell what it holds, the rest is for display. Nothing is opened by it. */
const nameOf = z
  .string()
  .max(200)
  .transform(s => s.replace(/[\\/]/g, '_').trim() || 'mesh.glb')
  .catch('mesh.glb')
const baseOf = z.coerce.number().int().min(1).optional()

/**
 * Puts a mesh into a project. The file is read to the end first; one that is broken changes nothing. Where there was a
 * mesh before, its parts are matched with the new one's, which inherit their keys, and the project has a new revision;
 * the first mesh completes the revision that is there. Two replacements at once: the second is refused, for it was
 * matched with a mesh that is no longer there. So is one whose `?base=` is from before a save of the look (`?look=`) or
 * of the mesh.
 */
export default route({ may: 'work', project: 'present', lock: 'holds', does: 'put a mesh' }, async event => {
  const project = projectOf(event)
  const query = getQuery(event)
  const name = nameOf.parse(query.name ?? '')
  const base = baseOf.safeParse(query.base)
  const asked = lookAsked(event)
  if (!base.success) throw refuse(400, 'The base of a mesh is the number of a revision.')
  const allowed = limits()
  const bytes = await bytesOf(event, allowed.bytes)
  const table = await keysOf(project)
  const preparation = preparationOf(await findRevision(project.id))
  const found = await readMesh(bytes, { name, preparation, limits: allowed, ...(table && { table }) }, event)
  if ('error' in found) throw refuse(422, found.error)
  const store = await useStore()
  const mesh = {
    meshHash: await putBlob(store, bytes, 'application/octet-stream'),
    meshName: name,
    triangles: found.triangles,
    parts: found.parts,
    keysHash: await putBlob(store, Buffer.from(JSON.stringify(found.keys)), 'application/json'),
  }
  return write(async rows => {
    const newest = await newestRevision(rows, project.id, asked)
    await fresh(rows, newest, base.data)
    const [now] = await rows
      .select({ meshHash: projects.meshHash, name: projects.name })
      .from(projects)
      .where(eq(projects.id, project.id))
    if (now?.meshHash !== project.meshHash)
      throw refuse(409, 'The mesh was replaced somewhere else in the meantime; open the project again to see it.')
    let revision = newest.number
    if (project.meshHash) revision = await addRevision(rows, newest, { ...mesh, author: authorOf(event) })
    else
      await rows
        .update(revisions)
        .set(mesh)
        .where(and(eq(revisions.project, project.id), eq(revisions.number, revision)))
    const [row] = await rows
      .update(projects)
      .set({ ...mesh, name: projectNamed(now!.name, name, project.meshName), changed: Date.now() })
      .where(eq(projects.id, project.id))
      .returning()
    return { ...summary(row!), revision }
  })
})
