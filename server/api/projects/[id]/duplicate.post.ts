import { parseLook } from '#core/graph/look'
import { createProject, latestRevision, preparationOf } from '../../../utils/projects'
import { findProject } from '../../../utils/requests'

export default defineEventHandler(async (event) => {
  const project = await findProject(event), revision = await latestRevision(project.id)
  return createProject(`${project.name} (copy)`.slice(0, 120), parseLook(JSON.parse(revision!.look)), preparationOf(revision), project)
})
