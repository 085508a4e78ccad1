import * as z from 'zod'
import { ACCESS, opens, setAccess } from '../../../../node/store/access'
import { ROLES } from '../../../../node/store/schema'
import { projectOf } from '../../../rights/admit'
import { route } from '../../../rights/route'
import { body, refuse } from '../../../utils/requests'
import { useStore } from '../../../utils/store'

/** As many as a list of them can still be read. */
const MOST = 200
const grant = z.strictObject({
  kind: z.enum(['user', 'group']),
  name: z.string().min(1).max(100),
  role: z.enum(ROLES),
})
const schema = z.strictObject({
  access: z.enum(ACCESS),
  grants: z
    .array(grant)
    .max(MOST)
    .refine(
      list => new Set(list.map(g => `${g.kind} ${g.name.toLowerCase()}`)).size === list.length,
      'somebody is named twice',
    ),
})

/** Says whom a project is open to: whoever made it, and whoever manages. */
export default route(
  { may: 'work', project: 'present', lock: 'passes', does: 'changed whom the project is open to' },
  async event => {
    const project = projectOf(event)
    const { person, role } = event.context
    const { access, grants } = await body(event, schema)
    if (!opens(project, person!, role!))
      throw refuse(403, 'Whom a project is open to is said by whoever made it, and by those who manage.')
    const missing = await setAccess(await useStore(), project.id, access, grants)
    if (missing) throw refuse(422, `There is no ${missing.kind} "${missing.name}".`)
    const named = grants.map(g => `${g.name} (${g.role})`).join(', ')
    event.context.detail = access === 'all' ? 'everybody' : named || 'nobody else'
    return { access, grants }
  },
)
