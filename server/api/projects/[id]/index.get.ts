import { latestRevision, preparationOf, summary } from '../../../utils/projects'
import { findProject } from '../../../utils/requests'

export default defineEventHandler(async (event) => {
  const project = await findProject(event), revision = await latestRevision(project.id)
  return { ...summary(project), revision: revision!.number, look: JSON.parse(revision!.look) as unknown, preparation: preparationOf(revision) }
})
