import { eq } from 'drizzle-orm'
import { denseSetupSchema } from '#core/dense/setup'
import { denseMeshes } from '../../../../../node/store/schema'
import { body, changeableProject, refuse } from '../../../../utils/requests'
import { write } from '../../../../utils/store'

/** Bytes of a setup: numbers for each part of the largest meshes. */
const SETUP_BYTES = 2 ** 24

/** Keeps how detail is taken from a project's dense mesh. */
export default defineEventHandler(async event => {
  const project = await changeableProject(event)
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
