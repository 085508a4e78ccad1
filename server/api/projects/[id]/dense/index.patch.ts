import { eq } from 'drizzle-orm'
import { denseSetupSchema } from '#core/dense/setup'
import { denseMeshes } from '../../../../../node/store/schema'
import { body, refuse } from '../../../../utils/requests'
import { write } from '../../../../utils/store'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** Bytes of a setup: numbers for each part of the largest meshes. */
const SETUP_BYTES = 2 ** 24

/** Keeps how detail is taken from a project's dense mesh. */
export default route({ may: 'work', project: 'present', lock: 'holds', does: null }, async event => {
  const project = projectOf(event)
  const setup = JSON.stringify(await body(event, denseSetupSchema, SETUP_BYTES))
  const kept = await write(rows =>
    rows
      .update(denseMeshes)
      .set({ setup })
      .where(eq(denseMeshes.project, project.id))
      .returning({ name: denseMeshes.name }),
  )
  if (!kept.length) throw refuse(404, 'The project has no dense mesh.')
  return { kept: kept[0]!.name }
})
