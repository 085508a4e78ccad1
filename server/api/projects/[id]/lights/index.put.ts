import { checkLight, LIGHT_BYTES } from '#core/trace/lightHead'
import { putBlob } from '../../../../../node/store/blobs'
import { lights } from '../../../../../node/store/schema'
import { bytesOf, nameSchema, refuse } from '../../../../utils/requests'
import { useStore, write } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/**
 * Keeps a picture of light with a project, under a name; one of that name is replaced. It is for the eyes, and so in no
 * revision.
 */
export default route(
  { may: 'work', project: 'present', lock: 'holds', does: 'put a picture of light' },
  async event => {
    const project = projectOf(event)
    const named = nameSchema.safeParse(getQuery(event).name)
    if (!named.success) throw refuse(400, 'A picture of light needs a name of at most 120 characters.')
    const name = named.data
    const bytes = await bytesOf(event, LIGHT_BYTES, 'The picture of light')
    try {
      checkLight(name, bytes)
    } catch (error) {
      throw refuse(422, (error as Error).message)
    }
    const hash = await putBlob(await useStore(), bytes, 'application/octet-stream')
    const added = Date.now()
    await write(rows =>
      rows
        .insert(lights)
        .values({ project: project.id, name, hash, added })
        .onConflictDoUpdate({ target: [lights.project, lights.name], set: { hash, added } }),
    )
    return { name, hash }
  },
)
