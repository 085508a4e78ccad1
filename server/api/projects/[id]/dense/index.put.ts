import { emptyPreparation } from '#core/mesh/preparation'
import { parseKeyTable } from '#core/mesh/keys'
import { getBlob, putBlob } from '../../../../../node/store/blobs'
import { denseMeshes } from '../../../../../node/store/schema'
import { limits } from '../../../../utils/limits'
import { denseOf } from '../../../../utils/projects'
import { readMesh } from '../../../../utils/readMesh'
import { bytesOf, nameSchema, refuse } from '../../../../utils/requests'
import { useStore, write } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/**
 * Keeps a dense mesh with a project. The file is read to the end first; one that is broken changes nothing. Where there
 * was one before, the parts of the new one inherit its keys, as those of a mesh do, so that what was decided for a part
 * by hand stays with it.
 */
export default route({ may: 'work', project: 'present', lock: 'holds', does: 'put a dense mesh' }, async event => {
  const project = projectOf(event)
  const named = nameSchema.safeParse(getQuery(event).name)
  if (!named.success) throw refuse(400, 'A dense mesh needs a name of at most 120 characters.')
  const allowed = limits()
  const bytes = await bytesOf(event, allowed.bytes, 'The dense mesh')
  const store = await useStore()
  const before = await denseOf(project.id)
  const known = before && (await getBlob(store, before.keysHash))
  const table = known && parseKeyTable(JSON.parse(known.bytes.toString('utf8')))
  const job = { name: named.data, preparation: emptyPreparation(), limits: allowed, ...(table && { table }) }
  const found = await readMesh(bytes, job, event)
  if ('error' in found) throw refuse(422, found.error)
  const { triangles, parts, keys } = found
  const row = {
    name: named.data,
    hash: await putBlob(store, bytes, 'application/octet-stream'),
    keysHash: await putBlob(store, Buffer.from(JSON.stringify(keys)), 'application/json'),
    triangles,
    parts,
    added: Date.now(),
  }
  await write(rows =>
    rows
      .insert(denseMeshes)
      .values({ ...row, project: project.id, setup: before?.setup ?? null })
      .onConflictDoUpdate({ target: denseMeshes.project, set: row }),
  )
  return { name: row.name, hash: row.hash, triangles, parts }
})
