import { parseLook } from '#core/graph/look'
import { authorOf } from '../../../utils/people'
import { createProject, findRevision, lightsOf, picturesOf, preparationOf } from '../../../utils/projects'
import { findProject } from '../../../utils/requests'

export default defineEventHandler(async event => {
  const project = await findProject(event)
  const revision = await findRevision(project.id)
  return createProject(`${project.name} (copy)`.slice(0, 120), {
    look: parseLook(JSON.parse(revision.look)),
    preparation: preparationOf(revision),
    mesh: project,
    thumbnailHash: project.thumbnailHash,
    pictures: picturesOf(revision) ?? [],
    lights: await lightsOf(project.id),
    author: authorOf(event) ?? undefined,
  })
})
