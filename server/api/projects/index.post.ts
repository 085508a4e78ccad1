import * as z from 'zod'
import { authorOf } from '../../utils/people'
import { createProject } from '../../utils/projects'
import { body, nameSchema } from '../../utils/requests'
import { route } from '../../rights/route'

export default route({ may: 'work', does: 'made a project' }, async event => {
  const { name } = await body(event, z.strictObject({ name: nameSchema }))
  const made = await createProject(name, { author: authorOf(event) ?? undefined })
  event.context.made = made.id
  return made
})
