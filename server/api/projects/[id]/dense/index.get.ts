import { denseSetupSchema } from '#core/dense/setup'
import { denseOf } from '../../../../utils/projects'
import { projectOf } from '../../../../rights/admit'
import { route } from '../../../../rights/route'

/** What a project knows of its dense mesh: its file, and how detail is taken from it; null without one. */
export default route({ may: 'look', project: 'present' }, async event => {
  const row = await denseOf(projectOf(event).id)
  if (!row) return { dense: null }
  const { name, hash, triangles, parts, setup } = row
  // A setup from another version, or none yet: the choices are made again.
  const read = setup === null ? undefined : denseSetupSchema.safeParse(JSON.parse(setup))
  return { dense: { name, hash, triangles, parts, setup: read?.success ? read.data : null } }
})
